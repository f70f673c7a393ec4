//! Lengths as people write them, read and written: `4.2`, `12,5`, `420 cm`, `3 m 50`, `12'6`, `12ft 6½in`, `3 1/2'`.
//!
//! A length is read as it is meant, or refused with what may be meant; it is never taken for something else.

use busy_hen_home::LengthUnit;
use busy_hen_units::Metres;

use super::wrong::Wrong;

const INCH: f64 = Metres::PER_FOOT / 12.0;

/// A length as it was written.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Spoken {
    /// The number as written; of several (feet and inches), all together in the first one's unit.
    pub value: f64,
    /// The unit that was written; none where the home's own is meant.
    pub unit: Option<Unit>,
    /// Whether it is a whole number without any mark, as names have them.
    pub plain: bool,
    /// Whether it was written with a decimal point or comma.
    pub decimal: bool,
}

/// A unit of length.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Unit {
    /// Metres.
    Metre,
    /// Centimetres.
    Centimetre,
    /// Millimetres.
    Millimetre,
    /// Feet of 0.3048 m.
    Foot,
    /// Inches.
    Inch,
}

impl Unit {
    const fn metres(self) -> f64 {
        match self {
            Self::Metre => 1.0,
            Self::Centimetre => 0.01,
            Self::Millimetre => 0.001,
            Self::Foot => Metres::PER_FOOT,
            Self::Inch => INCH,
        }
    }
}

impl Spoken {
    /// Its length where unmarked numbers are in this unit.
    #[must_use]
    pub fn metres(&self, own: LengthUnit) -> Metres {
        let own = match own {
            LengthUnit::Metre => Unit::Metre,
            LengthUnit::Foot => Unit::Foot,
        };
        Metres::new(self.value * self.unit.unwrap_or(own).metres())
    }

    /// The same, in this unit where none was written.
    #[must_use]
    pub fn or_in(self, unit: Option<Unit>) -> Self {
        Self { unit: self.unit.or(unit), ..self }
    }
}

/// Reads the length that begins here: it and where it ends; none where no length begins.
///
/// # Errors
/// What looks like a length and can't be one, or may be two.
pub fn read_length(chars: &[char], from: usize) -> Option<Result<(Spoken, usize), Wrong>> {
    let negative = matches!(chars.get(from), Some('-' | '−'));
    let start = from + usize::from(negative);
    let number = match number(chars, start)? {
        Ok(number) => number,
        Err(wrong) => return Some(Err(wrong)),
    };
    Some(with_unit(chars, from, &number).map(|(spoken, to)| {
        let value = if negative { -spoken.value } else { spoken.value };
        (Spoken { value, plain: spoken.plain && !negative, ..spoken }, to)
    }))
}

struct Number {
    value: f64,
    to: usize,
    whole: bool,
    decimal: bool,
}

fn with_unit(chars: &[char], from: usize, number: &Number) -> Result<(Spoken, usize), Wrong> {
    let spoken = |value, unit| Spoken { value, unit, plain: number.whole && unit.is_none(), decimal: number.decimal };
    let Some((unit, to)) = unit_at(chars, number.to) else {
        return Ok((spoken(number.value, None), number.to));
    };
    match unit {
        Unit::Foot => {
            let (inches, to) = inches_after(chars, from, number, to)?;
            Ok((spoken(number.value + inches / 12.0, Some(unit)), to))
        }
        Unit::Metre => {
            let (more, to) = centimetres_after(chars, from, number, to)?;
            Ok((spoken(number.value + more / 100.0, Some(unit)), to))
        }
        _ => Ok((spoken(number.value, Some(unit)), to)),
    }
}

/// Inches after feet: `6"`, ` 6 in`, or `6` alone where it can be nothing else.
fn inches_after(chars: &[char], from: usize, feet: &Number, to: usize) -> Result<(f64, usize), Wrong> {
    let mut at = to;
    while matches!(chars.get(at), Some(' ')) {
        at += 1;
    }
    if matches!(chars.get(at), Some('-')) && chars.get(at + 1).is_some_and(char::is_ascii_digit) {
        at += 1;
    }
    let glued = at == to;
    let Some(Ok(inches)) = number(chars, at) else { return Ok((0.0, to)) };
    let marked = unit_at(chars, inches.to);
    let end = match marked {
        Some((Unit::Inch, end)) => end,
        Some((Unit::Foot, end)) if glued => {
            let text = text(chars, at, inches.to);
            let with = format!("{}{text}\"", self::text(chars, from, to));
            return Err(Wrong::new(from, end, "Feet stand here twice; are the second ones inches?").or(&with));
        }
        Some(_) => return Ok((0.0, to)),
        // What follows feet without a mark is inches where it is less than a foot, and nothing follows that it could belong to.
        None if glued || inches.value < 12.0 && inches.whole => inches.to,
        None => return Ok((0.0, to)),
    };
    if !feet.whole {
        let with = format!("{}\"", write_plain(feet.value * 12.0 + inches.value));
        let told = "A part of a foot and inches stand here together; write one of them.";
        return Err(Wrong::new(from, end, told).or(&with));
    }
    if inches.value >= 12.0 {
        let whole = (inches.value / 12.0).floor();
        let rest = inches.value - 12.0 * whole;
        let with = format!("{}'{}\"", write_plain(feet.value + whole), write_plain(rest));
        let told = format!("{} inches are over a foot.", write_plain(inches.value));
        return Err(Wrong::new(from, end, told).or(&with));
    }
    Ok((inches.value, end))
}

/// Centimetres after metres: ` 50 cm`, or two glued figures.
fn centimetres_after(chars: &[char], from: usize, metres: &Number, to: usize) -> Result<(f64, usize), Wrong> {
    let glued = chars.get(to).is_some_and(char::is_ascii_digit);
    let at = if chars.get(to) == Some(&' ') { to + 1 } else { to };
    let Some(Ok(more)) = number(chars, at) else { return Ok((0.0, to)) };
    let end = match unit_at(chars, more.to) {
        Some((Unit::Centimetre, end)) if more.whole && metres.whole && more.value < 100.0 => end,
        None if glued && metres.whole && more.whole && more.to == to + 2 => more.to,
        None if glued => {
            let value = write_plain(metres.value);
            let figures = text(chars, to, more.to);
            let wrong = Wrong::new(from, more.to, "What follows the metres must be two figures of centimetres.");
            return Err(wrong.or(&format!("{value}.{figures}")).or(&format!("{value}.0{figures}")));
        }
        _ => return Ok((0.0, to)),
    };
    Ok((more.value, end))
}

/// A number: whole, decimal with point or comma, or with a fraction.
fn number(chars: &[char], from: usize) -> Option<Result<Number, Wrong>> {
    let digits = |mut at: usize| {
        while chars.get(at).is_some_and(char::is_ascii_digit) {
            at += 1;
        }
        at
    };
    let is_point = |at: usize| matches!(chars.get(at), Some('.' | ','));
    let whole_to = digits(from);
    let leads = whole_to == from;
    if leads && let Some(part) = fraction_char(chars.get(from)) {
        return Some(Ok(Number { value: part, to: from + 1, whole: false, decimal: false }));
    }
    // A comma ends a clause unless figures stand on both sides of it.
    let pointed = chars.get(whole_to) == Some(&'.')
        && (!leads || chars.get(whole_to + 1).is_some_and(char::is_ascii_digit))
        || chars.get(whole_to) == Some(&',') && !leads && chars.get(whole_to + 1).is_some_and(char::is_ascii_digit);
    if leads && !pointed {
        return None;
    }
    let value = |to: usize| text(chars, from, to).replace(',', ".").trim_end_matches('.').parse::<f64>().ok();
    if pointed {
        let to = digits(whole_to + 1);
        if is_point(to) && chars.get(to + 1).is_some_and(|c| c.is_ascii_digit() || *c == '.')
            || to == whole_to + 1 && is_point(to)
        {
            let mut end = to;
            while is_point(end) || chars.get(end).is_some_and(char::is_ascii_digit) {
                end += 1;
            }
            let wrong = Wrong::new(from, end, "Points and commas are mixed in this number; is it one length, or two?");
            let apart = format!("{}, {}", text(chars, from, whole_to), text(chars, whole_to + 1, end));
            return Some(Err(if chars.get(whole_to) == Some(&',') { wrong.or(&apart) } else { wrong }));
        }
        if chars.get(whole_to) == Some(&',') && to == whole_to + 4 && chars[from] != '0' {
            let (whole, rest) = (text(chars, from, whole_to), text(chars, whole_to + 1, to));
            let told = "This comma may part thousands or decimals; write it without.";
            return Some(Err(Wrong::new(from, to, told).or(&format!("{whole}.{rest}")).or(&format!("{whole}{rest}"))));
        }
        return value(to).map(|value| Ok(Number { value, to, whole: false, decimal: true }));
    }
    let whole = value(whole_to)?;
    if let Some(part) = fraction_char(chars.get(whole_to)) {
        return Some(Ok(Number { value: whole + part, to: whole_to + 1, whole: false, decimal: false }));
    }
    // "3 1/2", "3-1/2" and "1/2".
    let (over, first) = if chars.get(whole_to) == Some(&'/') {
        (0.0, from)
    } else if matches!(chars.get(whole_to), Some(' ' | '-')) {
        (whole, whole_to + 1)
    } else {
        (whole, whole_to)
    };
    let top_to = digits(first);
    if top_to > first && chars.get(top_to) == Some(&'/') {
        let bottom_to = digits(top_to + 1);
        let part = |from: usize, to: usize| text(chars, from, to).parse::<f64>().ok();
        let (top, bottom) = (part(first, top_to)?, part(top_to + 1, bottom_to).unwrap_or(0.0));
        if ![2.0, 4.0, 8.0, 16.0, 3.0].contains(&bottom) || top >= bottom {
            let told = "This is no fraction as a tape measure has them: halves, thirds, quarters, eighths, sixteenths.";
            return Some(Err(Wrong::new(from, bottom_to, told)));
        }
        return Some(Ok(Number { value: over + top / bottom, to: bottom_to, whole: false, decimal: false }));
    }
    Some(Ok(Number { value: whole, to: whole_to, whole: true, decimal: false }))
}

fn fraction_char(c: Option<&char>) -> Option<f64> {
    Some(match c? {
        '½' => 0.5,
        '¼' => 0.25,
        '¾' => 0.75,
        '⅓' => 1.0 / 3.0,
        '⅔' => 2.0 / 3.0,
        '⅛' => 0.125,
        '⅜' => 0.375,
        '⅝' => 0.625,
        '⅞' => 0.875,
        _ => return None,
    })
}

/// Names of units, the longest first.
const UNITS: [(&str, Unit); 20] = [
    ("centimetres", Unit::Centimetre),
    ("centimeters", Unit::Centimetre),
    ("centimetre", Unit::Centimetre),
    ("centimeter", Unit::Centimetre),
    ("millimetres", Unit::Millimetre),
    ("millimeters", Unit::Millimetre),
    ("metres", Unit::Metre),
    ("meters", Unit::Metre),
    ("metre", Unit::Metre),
    ("meter", Unit::Metre),
    ("inches", Unit::Inch),
    ("inch", Unit::Inch),
    ("feet", Unit::Foot),
    ("foot", Unit::Foot),
    ("ins", Unit::Inch),
    ("cm", Unit::Centimetre),
    ("mm", Unit::Millimetre),
    ("ft", Unit::Foot),
    ("in", Unit::Inch),
    ("m", Unit::Metre),
];

/// A unit after a number, spaces allowed before letters, and where it ends.
fn unit_at(chars: &[char], at: usize) -> Option<(Unit, usize)> {
    let marked = |at: usize| chars.get(at).is_some_and(|c| "'’′\"”″".contains(*c));
    let at = if chars.get(at) == Some(&' ') && marked(at + 1) { at + 1 } else { at };
    match (chars.get(at)?, chars.get(at + 1)) {
        ('\'' | '’' | '′', Some('\'' | '’' | '′')) => return Some((Unit::Inch, at + 2)),
        ('\'' | '’' | '′' | '‘' | '`' | '´' | 'ʹ', _) => return Some((Unit::Foot, at + 1)),
        ('"' | '”' | '″' | '“' | '„' | 'ʺ', _) => return Some((Unit::Inch, at + 1)),
        _ => {}
    }
    let mut start = at;
    while chars.get(start) == Some(&' ') {
        start += 1;
    }
    let rest: String = chars[start..].iter().take(11).collect::<String>().to_lowercase();
    UNITS.iter().find_map(|(name, unit)| {
        let to = start + name.chars().count();
        // A unit may be glued to the x of "12ftx10ft", to the figures of "12ft6", and may end with a full stop.
        let ends = match chars.get(to) {
            None => true,
            Some(c) if c.is_ascii_digit() => true,
            Some('x' | 'X') => chars.get(to + 1).is_none_or(|c| !c.is_alphabetic()),
            Some(c) => !c.is_alphanumeric(),
        };
        // "in" parts words too: "at 12 in metal cabinet".
        let word = || *name == "in" && start > at && is_word_in(chars, to);
        (rest.starts_with(name) && ends && !word()).then(|| {
            let stop = chars.get(to) == Some(&'.') && chars.get(to + 1).is_none_or(|c| !c.is_ascii_digit());
            (*unit, to + usize::from(stop))
        })
    })
}

fn is_word_in(chars: &[char], to: usize) -> bool {
    let rest: String = chars[to..].iter().take(12).collect::<String>().to_lowercase();
    [" metal", " wood", " a ", " the ", " cabinet", " cupboard"].iter().any(|word| rest.starts_with(word))
}

pub(super) fn text(chars: &[char], from: usize, to: usize) -> String {
    chars[from.min(chars.len())..to.min(chars.len())].iter().collect()
}

fn write_plain(value: f64) -> String {
    let rounded = (value * 1000.0).round() / 1000.0;
    format!("{rounded}")
}

/// A length as a line has it, in the home's unit: `4.25`, `12'6½"`; read again it is the same to half a millimetre.
#[must_use]
pub fn write_length(length: Metres, unit: LengthUnit) -> String {
    match unit {
        LengthUnit::Metre => write_plain(length.get()),
        LengthUnit::Foot => {
            let sign = if length.get() < -0.0005 { "-" } else { "" };
            let inches = length.get().abs() / INCH;
            let quarters = (inches * 4.0).round() / 4.0;
            let inches =
                if (quarters - inches).abs() * INCH < 0.0008 { quarters } else { (inches * 100.0).round() / 100.0 };
            let (feet, rest) = ((inches / 12.0).floor(), inches % 12.0);
            let rest = match ((rest * 4.0).round() / 4.0 - rest).abs() < 1e-9 {
                true => {
                    format!("{}{}", rest.floor(), ["", "¼", "½", "¾"][((rest.fract() * 4.0).round() as usize).min(3)])
                }
                false => write_plain(rest),
            };
            let rest =
                if rest.len() > 1 && rest.starts_with('0') && !rest.starts_with("0.") { &rest[1..] } else { &rest };
            match (feet > 0.0, rest != "0") {
                (true, true) => format!("{sign}{feet}'{rest}\""),
                (true, false) | (false, false) => format!("{sign}{feet}'"),
                (false, true) => format!("{sign}{rest}\""),
            }
        }
    }
}

/// A length as it is told, in the home's unit: `4.25 m`, `12'6"`.
#[must_use]
pub fn say_length(length: Metres, unit: LengthUnit) -> String {
    match unit {
        LengthUnit::Metre => format!("{:.2} m", length.get()),
        LengthUnit::Foot => {
            let inches = (length.get() / INCH).round();
            write_length(Metres::new(inches * INCH), unit)
        }
    }
}
