//! Lengths in all the ways that people write them.

use busy_hen_floorplan::draw;
use busy_hen_floorplan::lines::line::{Of, read};
use busy_hen_home::LengthUnit;
use busy_hen_units::Metres;

use super::*;

/// What a way of writing a length should come to.
enum Meant {
    /// So many metres.
    Is(f64),
    /// Refused, with this among what is offered; empty when nothing is.
    No(&'static str),
    /// Taken as part of the name, with the length that it may be offered.
    Asked(&'static str),
}

use Meant::{Asked, Is, No};

const FOOT: f64 = 0.3048;

const IN: f64 = 0.0254;

/// Two hundred ways in which people write lengths, and mistakes in them: the size of a room in a home of metres or feet.
fn ways() -> Vec<(LengthUnit, &'static str, Meant)> {
    vec![
        // Metres.
        (M, "4.2", Is(4.2)),
        (M, "4,2", Is(4.2)),
        (M, "4.20", Is(4.2)),
        (M, "4", Is(4.0)),
        (M, "4.", Is(4.0)),
        (M, ".9", Is(0.9)),
        (M, "0,9", Is(0.9)),
        (M, "4.2m", Is(4.2)),
        (M, "4.2 m", Is(4.2)),
        (M, "4,2m", Is(4.2)),
        (M, "4.2M", Is(4.2)),
        (M, "4.2 metres", Is(4.2)),
        (M, "4.2 meters", Is(4.2)),
        (M, "4 metre", Is(4.0)),
        (M, "4.2 meter", Is(4.2)),
        (M, "420cm", Is(4.2)),
        (M, "420 cm", Is(4.2)),
        (M, "420 CM", Is(4.2)),
        (M, "420 centimetres", Is(4.2)),
        (M, "420 centimeters", Is(4.2)),
        (M, "4200mm", Is(4.2)),
        (M, "4200 mm", Is(4.2)),
        (M, "420,5 cm", Is(4.205)),
        (M, "420.5cm", Is(4.205)),
        (M, "4m20", Is(4.2)),
        (M, "4m05", Is(4.05)),
        (M, "4 m 20 cm", Is(4.2)),
        (M, "4m 20cm", Is(4.2)),
        (M, "4m 5 cm", Is(4.05)),
        (M, "3½", Is(3.5)),
        (M, "3½m", Is(3.5)),
        (M, "3 1/2", Is(3.5)),
        (M, "3 1/2 m", Is(3.5)),
        (M, "3.25", Is(3.25)),
        (M, "10", Is(10.0)),
        (M, "12.75", Is(12.75)),
        (M, "29.9", Is(29.9)),
        (M, "4.2 m.", Is(4.2)),
        (M, "420 cm.", Is(4.2)),
        (M, "12'", Is(12.0 * FOOT)),
        (M, "12'6\"", Is(12.5 * FOOT)),
        (M, "12 ft", Is(12.0 * FOOT)),
        (M, "12ft6", Is(12.5 * FOOT)),
        (M, "150 in", Is(150.0 * IN)),
        (M, "150\"", Is(150.0 * IN)),
        (M, "4..2", No("")),
        (M, "4.2.1", No("")),
        (M, "4,2,1", No("")),
        (M, "1,200", No("1.200")),
        (M, "1,200 m", No("1.200")),
        (M, "4m5", No("4.05")),
        (M, "4m205", No("")),
        (M, "420", No("420 cm")),
        (M, "360", No("360 cm")),
        (M, "42", Asked("Kitchen 42 cm")),
        (M, "4200", No("4200 cm")),
        (M, "0.2", No("")),
        (M, "0", No("")),
        (M, "-4.2", No("")),
        (M, "101 m", No("")),
        (M, "4.2 k", No("")),
        (M, "4.2q", No("")),
        (M, "O.9", No("")),
        (M, "4 .2", No("")),
        (M, "4 2", Asked("Kitchen 4.2 x")),
        (M, "4,2.5", No("")),
        (M, "4.2-", No("")),
        (M, "4.2mm", No("")),
        (M, "4 cm", No("")),
        (M, "1/5", No("")),
        (M, "5/4", No("")),
        (M, "four", No("")),
        (M, "~4", No("")),
        (M, "4.2/", No("")),
        (M, "m4.2", No("")),
        (M, "4m2cm", Is(4.02)),
        (M, "4.2m²", No("")),
        // Feet and inches.
        (FT, "12", Is(12.0 * FOOT)),
        (FT, "12'", Is(12.0 * FOOT)),
        (FT, "12’", Is(12.0 * FOOT)),
        (FT, "12′", Is(12.0 * FOOT)),
        (FT, "12 ft", Is(12.0 * FOOT)),
        (FT, "12ft", Is(12.0 * FOOT)),
        (FT, "12 FT", Is(12.0 * FOOT)),
        (FT, "12 ft.", Is(12.0 * FOOT)),
        (FT, "12 feet", Is(12.0 * FOOT)),
        (FT, "12 foot", Is(12.0 * FOOT)),
        (FT, "12 Feet", Is(12.0 * FOOT)),
        (FT, "12'6\"", Is(12.5 * FOOT)),
        (FT, "12' 6\"", Is(12.5 * FOOT)),
        (FT, "12'6", Is(12.5 * FOOT)),
        (FT, "12' 6", Is(12.5 * FOOT)),
        (FT, "12’6”", Is(12.5 * FOOT)),
        (FT, "12′6″", Is(12.5 * FOOT)),
        (FT, "12’ 6”", Is(12.5 * FOOT)),
        (FT, "12‘6“", Is(12.5 * FOOT)),
        (FT, "12'6''", Is(12.5 * FOOT)),
        (FT, "12’6’’", Is(12.5 * FOOT)),
        (FT, "12ft6", Is(12.5 * FOOT)),
        (FT, "12ft6in", Is(12.5 * FOOT)),
        (FT, "12ft 6in", Is(12.5 * FOOT)),
        (FT, "12 ft 6 in", Is(12.5 * FOOT)),
        (FT, "12 ft 6", Is(12.5 * FOOT)),
        (FT, "12 ft. 6 in.", Is(12.5 * FOOT)),
        (FT, "12 feet 6 inches", Is(12.5 * FOOT)),
        (FT, "12 foot 6 inch", Is(12.5 * FOOT)),
        (FT, "12 feet 6", Is(12.5 * FOOT)),
        (FT, "12'-6\"", Is(12.5 * FOOT)),
        (FT, "12'0\"", Is(12.0 * FOOT)),
        (FT, "12'00", Is(12.0 * FOOT)),
        (FT, "12'06\"", Is(12.5 * FOOT)),
        (FT, "12'11\"", Is(12.0 * FOOT + 11.0 * IN)),
        (FT, "12'6½\"", Is(12.5 * FOOT + 0.5 * IN)),
        (FT, "12'6½", Is(12.5 * FOOT + 0.5 * IN)),
        (FT, "12' 6½\"", Is(12.5 * FOOT + 0.5 * IN)),
        (FT, "12' 6 1/2\"", Is(12.5 * FOOT + 0.5 * IN)),
        (FT, "12'6 1/2\"", Is(12.5 * FOOT + 0.5 * IN)),
        (FT, "12'6-1/2\"", Is(12.5 * FOOT + 0.5 * IN)),
        (FT, "12'6.5\"", Is(12.5 * FOOT + 0.5 * IN)),
        (FT, "12'6,5\"", Is(12.5 * FOOT + 0.5 * IN)),
        (FT, "12'½\"", Is(12.0 * FOOT + 0.5 * IN)),
        (FT, "12' ¾\"", Is(12.0 * FOOT + 0.75 * IN)),
        (FT, "12'3/8\"", Is(12.0 * FOOT + 0.375 * IN)),
        (FT, "12'6⅜\"", Is(12.5 * FOOT + 0.375 * IN)),
        (FT, "3½'", Is(3.5 * FOOT)),
        (FT, "3½", Is(3.5 * FOOT)),
        (FT, "3 1/2'", Is(3.5 * FOOT)),
        (FT, "3-1/2'", Is(3.5 * FOOT)),
        (FT, "3½ ft", Is(3.5 * FOOT)),
        (FT, "12½'", Is(12.5 * FOOT)),
        (FT, "12.5'", Is(12.5 * FOOT)),
        (FT, "12.5 ft", Is(12.5 * FOOT)),
        (FT, "12.5", Is(12.5 * FOOT)),
        (FT, "12,5", Is(12.5 * FOOT)),
        (FT, "12,5 ft", Is(12.5 * FOOT)),
        (FT, "8.5", Is(8.5 * FOOT)),
        (FT, "78\"", Is(78.0 * IN)),
        (FT, "78in", Is(78.0 * IN)),
        (FT, "78 in", Is(78.0 * IN)),
        (FT, "78 inches", Is(78.0 * IN)),
        (FT, "78”", Is(78.0 * IN)),
        (FT, "78''", Is(78.0 * IN)),
        (FT, "78½\"", Is(78.5 * IN)),
        (FT, "36 ins", Is(36.0 * IN)),
        (FT, "4.2 m", Is(4.2)),
        (FT, "4.2m", Is(4.2)),
        (FT, "4,2 m", Is(4.2)),
        (FT, "420 cm", Is(4.2)),
        (FT, "4m20", Is(4.2)),
        (FT, "12`", Is(12.0 * FOOT)),
        (FT, "12´", Is(12.0 * FOOT)),
        (FT, "12`6", Is(12.5 * FOOT)),
        (FT, "100", Asked("Kitchen 100 cm")),
        (FT, "10'10\"", Is(10.0 * FOOT + 10.0 * IN)),
        (FT, "10' 10\"", Is(10.0 * FOOT + 10.0 * IN)),
        (FT, "9'11½", Is(9.0 * FOOT + 11.5 * IN)),
        (FT, "8 ft 3", Is(8.25 * FOOT)),
        (FT, "8ft3\"", Is(8.25 * FOOT)),
        (FT, "8' 3 in", Is(8.25 * FOOT)),
        (FT, "8'3in", Is(8.25 * FOOT)),
        (FT, "3⅓'", Is(3.0 * FOOT + 4.0 * IN)),
        (FT, "99 in", Is(99.0 * IN)),
        (FT, "2500mm", Is(2.5)),
        (M, "9'", Is(9.0 * FOOT)),
        (M, "2 m 5 cm", Is(2.05)),
        (M, "2.055", Is(2.055)),
        (M, "3,05m", Is(3.05)),
        (FT, "9", Is(9.0 * FOOT)),
        (FT, "30", Is(30.0 * FOOT)),
        (FT, "14 '", Is(14.0 * FOOT)),
        (FT, "12'13\"", No("13'1\"")),
        (FT, "12'13", No("13'1\"")),
        (FT, "12ft14in", No("13'2\"")),
        (FT, "12'24\"", No("14'0\"")),
        (FT, "12'6'", No("12'6\"")),
        (FT, "12.5'6\"", No("156\"")),
        (FT, "12½'6\"", No("156\"")),
        (FT, "12'6\"3", No("")),
        (FT, "12\"6'", No("")),
        (FT, "4.2", No("4.2 m")),
        (FT, "3.6", No("3.6 m")),
        (FT, "2,5", No("2,5 m")),
        (FT, "12 6", Asked("Kitchen 12'6 x")),
        (FT, "12-6", No("")),
        (FT, "12.6.3", No("")),
        (FT, "120", Asked("Kitchen 120 cm")),
        (FT, "360", No("360 cm")),
        (FT, "1,250", No("1.250")),
        (FT, "12'6q", No("")),
        (FT, "12'' 6'", No("")),
        (FT, "'12", No("")),
        (FT, "12 f", No("")),
        (FT, "12fx", No("")),
        (FT, "6\"", No("")),
        (FT, "0'6\"", No("")),
        (FT, "-12'", No("")),
        (FT, "12' 6' 3\"", No("")),
        (FT, "12'7/5\"", No("")),
        (FT, "400 ft", No("")),
        (FT, "twelve", No("")),
        (FT, "I2'", No("")),
        (FT, "12'6\" 6\"", No("")),
    ]
}

#[test]
fn two_hundred_ways_of_writing_a_length_are_read_as_meant_or_refused() {
    let ways = ways();
    assert!(ways.len() >= 200, "{}", ways.len());
    let mut wrong = Vec::new();
    for (unit, text, meant) in &ways {
        let mark = if *unit == M { "1.5 m" } else { "5'" };
        // As width and as depth: what has a unit of its own beside it, and what has none.
        let alone = format!("Kitchen {text} x {text}");
        let read_of = |line: &str| {
            read(line, *unit).map(|line| match line.map(|line| line.of) {
                Some(Of::Room(room)) => (room.name.name, room.size),
                _ => (String::new(), (Metres::default(), Metres::default())),
            })
        };
        match (meant, read_of(&alone)) {
            (Is(metres), Ok((name, (w, d)))) => {
                let near = |length: Metres| (length.get() - metres).abs() < 1e-6;
                if name != "Kitchen" || !near(w) || !near(d) {
                    wrong.push(format!("{alone}: {name} {w:?} {d:?}"));
                }
            }
            (Is(_), Err(told)) => wrong.push(format!("{alone}: {}", told.message)),
            (No(offered), Err(told)) => {
                if !offered.is_empty() && !told.fixes.iter().any(|fix| fix.with.contains(offered)) {
                    wrong.push(format!("{alone}: offers {:?}", told.fixes));
                }
            }
            (Asked(_), _) => {}
            (No(_), Ok(read)) => wrong.push(format!("{alone} is read as {read:?}")),
        }
        if let Asked(offered) = meant {
            // Beside its like, or beside a length that is marked where it is the end of a name.
            let line = if text.contains(' ') { format!("Kitchen {text} x {mark}") } else { alone.clone() };
            let doubts = draw(&[level("g", &line)], *unit).doubts;
            let fix = &doubts[0].wrong.fixes[0];
            let meant: String =
                line.chars().take(fix.from).chain(fix.with.chars()).chain(line.chars().skip(fix.to)).collect();
            assert!(meant.starts_with(offered), "{meant}");
        }
        if let (No(_), Ok((name, size))) = (meant, read_of(&format!("Kitchen {text} x {mark}")))
            && name != "Kitchen"
        {
            wrong.push(format!("Kitchen {text} x {mark} is read as {name} {size:?}"));
        }
    }
    assert!(wrong.is_empty(), "{} of {}:\n{}", wrong.len(), ways.len(), wrong.join("\n"));
}

#[test]
fn of_a_size_the_unit_of_one_length_holds_for_the_other() {
    for (unit, line, w, d) in [
        (FT, "A 4.2x3.6m", 4.2, 3.6),
        (FT, "A 4.2 m x 3.6", 4.2, 3.6),
        (M, "A 12 x 10 ft", 12.0 * FOOT, 10.0 * FOOT),
        (M, "A 12' x 10", 12.0 * FOOT, 10.0 * FOOT),
        (M, "A 420 x 360cm", 4.2, 3.6),
        (FT, "A 12 x 10'6", 12.0 * FOOT, 10.5 * FOOT),
        (FT, "A 12'x10'", 12.0 * FOOT, 10.0 * FOOT),
        (FT, "A 12ftx10ft", 12.0 * FOOT, 10.0 * FOOT),
        (M, "A 4×3", 4.0, 3.0),
        (M, "A 4 by 3", 4.0, 3.0),
        (M, "A 4 * 3", 4.0, 3.0),
        (M, "A 4 X 3", 4.0, 3.0),
        (M, "A 4x 3", 4.0, 3.0),
        (M, "A 4 x3", 4.0, 3.0),
        (M, "A: 4 x 3", 4.0, 3.0),
        (M, "A, 4 x 3", 4.0, 3.0),
        (M, "A 4,2 x 3,6, east of B", 4.2, 3.6),
        (FT, "A 12' 6 x 10'", 12.5 * FOOT, 10.0 * FOOT),
    ] {
        let Ok(Some(read)) = read(line, unit) else { panic!("{line}: {:?}", read(line, unit)) };
        let Of::Room(room) = read.of else { panic!("{line}") };
        assert_eq!(room.name.name, "A");
        assert!(
            (room.size.0.get() - w).abs() < 1e-6 && (room.size.1.get() - d).abs() < 1e-6,
            "{line}: {:?}",
            room.size
        );
    }
}

#[test]
fn a_length_with_what_it_measures_is_no_part_of_a_name_and_no_second_place() {
    let of = |thing: &str| typed(&format!("Hall 2 x 5\nDen 3 x 5 east of Hall\n- {thing}"));
    for thing in
        ["door to Hall 0.9 wide", "gap to Hall 0.9 wide", "door to Hall at 1.5 0.9 wide", "door west at 1.5 0.9 wide"]
    {
        let own = of(thing);
        assert!(own.faults.is_empty(), "{thing}: {:?}", own.faults);
        let opening = &own.fittings.openings[0];
        assert!((opening.along.1 - opening.along.0 - 0.9).abs() < 1e-9, "{thing}: {opening:?}");
    }
}
