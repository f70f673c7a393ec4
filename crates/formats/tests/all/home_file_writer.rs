//! A file that is written piece by piece is the file that would be written at once, and is read from the disk as from memory.

use busy_hen_demo::{canal_terrace, gasworks_flat};
use busy_hen_formats::{HomeFile, HomeFileWriter, PictureRecord, RoundRecord, not_too_large, plain_jpeg};
use busy_hen_home::{
    Drill, DrillId, DrillMark, FILE_LIMIT, Failure, HangsBy, Picture, PictureId, Pings, Run, Shows, Sight, SpotId,
    Tick, TickOutcome, Took, WatchHead, WatchId, WatchLog, WatchStretch, Watched,
};
use busy_hen_testkit::homes::any_home;
use busy_hen_testkit::runs::{BEGUN, round, run, tested};
use busy_hen_units::{MbitPerSec, Millis};
use image::{ExtendedColorType, ImageEncoder};
use jiff::SignedDuration;

fn jpeg() -> Vec<u8> {
    let mut png = Vec::new();
    let pixels: Vec<u8> = (0..300u32).map(|own| (own % 251) as u8).collect();
    image::codecs::png::PngEncoder::new(&mut png).write_image(&pixels, 10, 10, ExtendedColorType::Rgb8).unwrap();
    plain_jpeg(&png).unwrap()
}

fn watch(name: &str) -> WatchLog {
    let head = WatchHead {
        id: WatchId::named(name),
        made_up: true,
        by_wire: true,
        every_s: 10,
        targets: vec![Watched { name: "Router".into(), address: "192.0.2.1:80".into(), way: HangsBy::Wire }],
    };
    let took = Took { min_ms: Millis::new(0.5), median_ms: Millis::new(1.5), max_ms: Millis::new(7.25) };
    let stretch = |number: i64| WatchStretch {
        from: BEGUN + SignedDuration::from_mins(number * 10),
        to: BEGUN + SignedDuration::from_mins(number * 10 + 10),
        of: vec![Pings { asked: 60, lost: 1, took: Some(took) }],
    };
    WatchLog { starts: vec![BEGUN], stretches: (0..6).map(stretch).collect(), ..WatchLog::new(head) }
}

/// A file with something in each of its lists.
fn full() -> HomeFile {
    let home = canal_terrace();
    let spots = [SpotId::named("Study"), home.house.spots[1].id];
    let record = |name: &str, count: u32| {
        let round = round(name, home.setups[0].id, spots.to_vec());
        let traced = |number: u32| Run {
            trace_mbps: (0..number).map(|own| MbitPerSec::new(f64::from(own) / 3.0)).collect(),
            ..run(&round, spots[number as usize % 2], f64::from(number) + 0.125)
        };
        let runs = (1..=count).map(traced).collect();
        RoundRecord { tested: Some(tested(&home, &round)), round, runs }
    };
    let rounds = vec![record("one", 3), record("none", 0), record("two", 2)];
    let picture = |name: &str| Picture {
        id: PictureId::named(name),
        shows: Shows::Spot { spot_id: spots[0] },
        at: BEGUN,
        note: "“socket” behind the bench, \u{1F3FA}".into(),
    };
    let tick = |step: &str| Tick {
        setup_id: home.setups[0].id,
        step: step.into(),
        outcome: TickOutcome::Done,
        at: BEGUN,
        by: String::new(),
        note: "a line\nand another".into(),
    };
    let drill = Drill {
        id: DrillId::named("d"),
        setup_id: home.setups[0].id,
        failure: Failure::Line,
        begun: BEGUN,
        marks: vec![DrillMark { seen: Sight::LossNoticed, after_ms: 1500, by_probe: true }],
        stopped: true,
        note: String::new(),
    };
    HomeFile {
        pictures: ["a", "b"].map(|name| PictureRecord::new(picture(name), &jpeg())).into(),
        ticks: vec![tick("place/router"), tick("name/router")],
        drills: vec![drill],
        watches: vec![watch("w"), watch("x")],
        ..HomeFile::new(home.clone(), rounds)
    }
}

fn written(file: &HomeFile) -> Vec<u8> {
    let mut writer = HomeFileWriter::begin(Vec::new(), &file.home).unwrap();
    for record in &file.rounds {
        writer.round(&record.round, record.tested.as_ref().unwrap()).unwrap();
        record.runs.iter().for_each(|run| writer.run(run).unwrap());
    }
    for record in &file.pictures {
        writer.picture(record.picture.clone(), &record.jpeg().unwrap()).unwrap();
    }
    file.ticks.iter().for_each(|own| writer.tick(own).unwrap());
    file.drills.iter().for_each(|own| writer.drill(own).unwrap());
    file.watches.iter().for_each(|own| writer.watch(own).unwrap());
    file.device_notes.iter().for_each(|own| writer.device_note(own).unwrap());
    writer.end().unwrap()
}

fn at_once(file: &HomeFile) -> Vec<u8> {
    let mut bytes = serde_json::to_vec(file).unwrap();
    bytes.push(b'\n');
    bytes
}

#[test]
fn piece_by_piece_is_as_at_once_whatever_lists_are_empty() {
    let full = full();
    let empty = HomeFile::new(gasworks_flat(), Vec::new());
    let mut some = vec![full.clone(), empty.clone()];
    // Each of the lists alone, and all but each.
    for list in 0..5 {
        let mut alone = HomeFile { home: full.home.clone(), ..empty.clone() };
        let mut without = full.clone();
        match list {
            0 => (alone.rounds, without.rounds) = (full.rounds.clone(), Vec::new()),
            1 => (alone.pictures, without.pictures) = (full.pictures.clone(), Vec::new()),
            2 => (alone.ticks, without.ticks) = (full.ticks.clone(), Vec::new()),
            3 => (alone.drills, without.drills) = (full.drills.clone(), Vec::new()),
            _ => (alone.watches, without.watches) = (full.watches.clone(), Vec::new()),
        }
        some.extend([alone, without]);
    }
    some.extend((0..30).map(|number| HomeFile::new(any_home(number), Vec::new())));
    for (number, file) in some.iter().enumerate() {
        let bytes = written(file);
        assert_eq!(String::from_utf8_lossy(&bytes), String::from_utf8_lossy(&at_once(file)), "file {number}");
        assert_eq!(&HomeFile::read(&bytes).unwrap(), file, "file {number}");
    }
}

#[test]
fn from_the_disk_it_is_read_as_from_memory_and_so_is_what_is_wrong_with_it() {
    let file = full();
    let bytes = written(&file);
    let from_disk = |bytes: &[u8]| HomeFile::read_from(bytes, bytes.len() as u64);
    assert!(from_disk(&bytes).unwrap() == file);
    for cut in (0..bytes.len()).step_by(bytes.len() / 97) {
        let part = &bytes[..cut];
        let (memory, disk) = (HomeFile::read(part).unwrap_err(), from_disk(part).unwrap_err());
        assert_eq!(memory.list()[0].pointer, disk.list()[0].pointer, "cut at {cut}");
    }
    let twice = [&bytes[..], b"{}"].concat();
    assert!(from_disk(&twice).unwrap_err().to_string().contains("something else follows"));
}

#[test]
fn a_file_that_is_too_large_is_told_before_it_is_read() {
    assert!(not_too_large(FILE_LIMIT).is_ok());
    let told = not_too_large(FILE_LIMIT + 1).unwrap_err().to_string();
    assert!(told.contains("256 MB"), "{told}");
    let refused = HomeFile::read_from(std::io::repeat(b' '), FILE_LIMIT + 1).unwrap_err();
    assert!(refused.to_string().contains("larger than"), "an endless one is not begun with");
}

#[test]
fn what_is_written_out_of_its_order_is_refused() {
    let file = full();
    let mut writer = HomeFileWriter::begin(Vec::new(), &file.home).unwrap();
    assert!(writer.run(&file.rounds[0].runs[0]).is_err(), "a run without its round");
    writer.watch(&file.watches[0]).unwrap();
    let record = &file.rounds[0];
    assert!(writer.round(&record.round, record.tested.as_ref().unwrap()).is_err(), "a round after the watches");
    assert!(writer.tick(&file.ticks[0]).is_err() && writer.watch(&file.watches[1]).is_ok());
}
