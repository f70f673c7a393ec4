//! Numbers as people type and paste them: thousands and decimals as their country writes them, units and signs of money beside them. What may
//! mean two numbers is asked about, never guessed; what means none is refused in words.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// The mark before decimals.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Decimals {
    /// 1,234.5
    Point,
    /// 1.234,5
    Comma,
}

impl Decimals {
    const fn mark(self) -> char {
        match self {
            Self::Point => '.',
            Self::Comma => ',',
        }
    }
}

/// How a country writes numbers.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Style {
    /// The mark before decimals.
    pub decimals: Decimals,
    /// What parts thousands; a space does everywhere.
    pub thousands: char,
    /// Whether figures above a thousand are parted in twos, as in 12,34,567.
    pub in_twos: bool,
}

impl Style {
    /// 1,234.5
    pub const POINT: Self = Self { decimals: Decimals::Point, thousands: ',', in_twos: false };
    /// 1.234,5
    pub const COMMA: Self = Self { decimals: Decimals::Comma, thousands: '.', in_twos: false };
    /// 1 234,5
    pub const SPACED: Self = Self { decimals: Decimals::Comma, thousands: ' ', in_twos: false };
    /// 12,34,567.5
    pub const IN_TWOS: Self = Self { decimals: Decimals::Point, thousands: ',', in_twos: true };

    /// The usual style with this mark before decimals.
    #[must_use]
    pub const fn of(decimals: Decimals) -> Self {
        match decimals {
            Decimals::Point => Self::POINT,
            Decimals::Comma => Self::COMMA,
        }
    }

    /// A number without thousands parted, so that it is read as itself.
    #[must_use]
    pub fn write(self, value: f64) -> String {
        value.to_string().replace('.', &self.decimals.mark().to_string())
    }
}

/// What a number is of: which units may stand beside it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Quantity {
    /// A whole number of things.
    Count,
    /// A rate, in Mb/s.
    Speed,
    /// A delay, in ms.
    Delay,
    /// A time, in s.
    Time,
    /// A level, in dBm; the minus is often left out.
    Signal,
    /// A part, in percent.
    Percent,
    /// A sum in the family's money.
    Money,
    /// A gain, in dB or dBi.
    Gain,
    /// An angle, in degrees.
    Angle,
    /// A power, in W.
    Power,
    /// An area, in m².
    Area,
    /// A number of years.
    Years,
}

/// Units of a rate that name bytes; many who write them mean bits.
const BYTES: [(&str, f64); 3] = [("kB", 8e-3), ("MB", 8.0), ("GB", 8e3)];
/// What stands before or behind a sum.
const MONEY: [&str; 26] = [
    "r$", "c$", "a$", "nz$", "us$", "£", "$", "€", "¥", "₹", "r", "rs", "gbp", "usd", "eur", "cad", "aud", "nzd",
    "jpy", "inr", "brl", "zar", "pounds", "dollars", "euros", "euro",
];

impl Quantity {
    /// Names of units in small letters, each with what one of it is in the unit of this quantity.
    fn units(self) -> &'static [(&'static str, f64)] {
        match self {
            Self::Count => &[],
            Self::Speed => &[
                ("mb/s", 1.0),
                ("mbit/s", 1.0),
                ("mbits/s", 1.0),
                ("mbps", 1.0),
                ("mbit", 1.0),
                ("mb", 1.0),
                ("m", 1.0),
                ("megabits", 1.0),
                ("kb/s", 1e-3),
                ("kbit/s", 1e-3),
                ("kbps", 1e-3),
                ("kbit", 1e-3),
                ("gb/s", 1e3),
                ("gbit/s", 1e3),
                ("gbps", 1e3),
                ("gbit", 1e3),
                ("gig", 1e3),
                ("gigabit", 1e3),
            ],
            Self::Delay => &[("ms", 1.0), ("msec", 1.0), ("milliseconds", 1.0), ("s", 1e3), ("sec", 1e3), ("µs", 1e-3)],
            Self::Time => &[("s", 1.0), ("sec", 1.0), ("seconds", 1.0), ("ms", 1e-3), ("min", 60.0), ("minutes", 60.0)],
            Self::Signal => &[("dbm", 1.0), ("db", 1.0)],
            Self::Percent => &[("%", 1.0), ("percent", 1.0), ("per cent", 1.0)],
            Self::Money => &[],
            Self::Gain => &[("db", 1.0), ("dbi", 1.0)],
            Self::Angle => &[("°", 1.0), ("deg", 1.0), ("degrees", 1.0)],
            Self::Power => &[("w", 1.0), ("watts", 1.0), ("watt", 1.0)],
            Self::Area => &[("m²", 1.0), ("m2", 1.0), ("sqm", 1.0), ("ft²", 0.092_903_04), ("sq ft", 0.092_903_04)],
            Self::Years => &[("y", 1.0), ("yr", 1.0), ("year", 1.0), ("years", 1.0)],
        }
    }

    /// What it is, with an example as this style writes it.
    fn example(self, style: Style) -> String {
        let with_decimals = |value: f64, unit: &str| format!("{}{unit}", style.write(value));
        match self {
            Self::Count => "a whole number, as in 3".into(),
            Self::Speed => format!("a speed, as in {}", with_decimals(84.5, " Mb/s")),
            Self::Delay => "a delay, as in 12 ms".into(),
            Self::Time => format!("a time, as in {}", with_decimals(4.5, " s")),
            Self::Signal => "a signal, as in -67 dBm".into(),
            Self::Percent => "a percentage, as in 40 %".into(),
            Self::Money => format!("a sum of money, as in {}", with_decimals(49.5, "")),
            Self::Gain => format!("a gain, as in {}", with_decimals(2.5, " dB")),
            Self::Angle => "an angle, as in 45°".into(),
            Self::Power => format!("a power, as in {}", with_decimals(12.5, " W")),
            Self::Area => "an area, as in 90 m²".into(),
            Self::Years => "a number of years, as in 2".into(),
        }
    }
}

/// One of the numbers that may be meant.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Choice {
    /// The number, in the unit of its quantity.
    pub value: f64,
    /// The same as it is typed without doubt.
    pub text: String,
}

/// What was read.
#[derive(Debug, Clone, PartialEq)]
pub enum Read {
    /// One number, in the unit of its quantity.
    Value(f64),
    /// Two that may be meant.
    Unclear(Vec<Choice>),
}

/// What was typed means no number; in words.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Unreadable(pub String);

/// Reads a number as a person types it, in the unit of its quantity.
///
/// # Errors
/// When it means none.
pub fn read(typed: &str, of: Quantity, style: Style) -> Result<Read, Unreadable> {
    let wrong = || unreadable(typed, of, style);
    let (figures, unit) = split(typed, of).ok_or_else(wrong)?;
    let unit = unit.unwrap_or(Unit { is: 1.0, bytes: false });
    let numbers = match number(&figures, style) {
        Number::None => return Err(wrong()),
        Number::One(value) => vec![value],
        Number::Either(a, b) => vec![a, b],
    };
    if of == Quantity::Count && numbers.iter().any(|value| value.fract() != 0.0) {
        return Err(wrong());
    }
    let of_unit = |value: f64| match of {
        Quantity::Signal => -(value * unit.is).abs(),
        _ => tidy(value * unit.is),
    };
    let mut choices: Vec<f64> = numbers.iter().map(|value| of_unit(*value)).collect();
    if unit.bytes {
        choices.extend(numbers.iter().map(|value| tidy(value * unit.is / 8.0)));
    }
    if let [value] = choices[..] {
        return Ok(Read::Value(value));
    }
    Ok(Read::Unclear(choices.into_iter().map(|value| Choice { value, text: style.write(value) }).collect()))
}

/// Reads a cell of a table whose style is known. A unit in the cell goes before that of the table, of which `bare` says what one is; one that
/// names bytes means them, as in a heading.
///
/// # Errors
/// When it means no number in this style.
pub fn read_cell(cell: &str, of: Quantity, decimals: Decimals, bare: f64) -> Result<f64, Unreadable> {
    let style = Style::of(decimals);
    let (figures, unit) = split(cell, of).ok_or_else(|| unreadable(cell, of, style))?;
    match number(&figures, style) {
        Number::One(value) => Ok(tidy(value * unit.map_or(bare, |unit| unit.is))),
        _ => Err(unreadable(cell, of, style)),
    }
}

/// Whether a cell says itself what unit it is in.
#[must_use]
pub fn has_unit(cell: &str, of: Quantity) -> bool {
    split(cell, of).is_some_and(|(_, unit)| unit.is_some())
}

fn unreadable(typed: &str, of: Quantity, style: Style) -> Unreadable {
    let shown: String = typed.trim().chars().take(40).collect();
    Unreadable(format!("“{shown}” can’t be read; type {}.", of.example(style)))
}

#[derive(Clone, Copy)]
struct Unit {
    is: f64,
    bytes: bool,
}

/// The figures of what was typed, and the unit beside them; nothing where something else stands there.
fn split(typed: &str, of: Quantity) -> Option<(String, Option<Unit>)> {
    let plain: String = typed.trim().chars().map(plain).collect();
    let plain = plain.trim_end_matches('?').trim_end();
    let is_figure = |c: char| c.is_ascii_digit() || matches!(c, '.' | ',' | '\'' | ' ' | '-' | '+');
    let from = plain.find(|c: char| c.is_ascii_digit() || matches!(c, '.' | ',' | '-' | '+'))?;
    let (before, rest) = plain.split_at(from);
    let to = rest.find(|c: char| !is_figure(c)).unwrap_or(rest.len());
    let (figures, behind) = rest.split_at(to);
    let (before, behind) = (before.trim(), behind.trim());
    let is_money = |text: &str| MONEY.contains(&text.to_lowercase().as_str());
    let unit = match (before, behind) {
        ("", "") => None,
        ("", sign) | (sign, "") if of == Quantity::Money && is_money(sign) => None,
        ("", unit) => Some(unit_of(unit, of)?),
        _ => return None,
    };
    Some((figures.trim().to_owned(), unit))
}

fn unit_of(name: &str, of: Quantity) -> Option<Unit> {
    if of == Quantity::Speed
        && let Some((_, is)) = BYTES.iter().find(|(bytes, _)| {
            let rest = name.strip_prefix(bytes).or_else(|| name.strip_prefix(&bytes.to_uppercase()));
            rest.is_some_and(|rest| ["", "/s", "ps", "yte/s", "PS", "/S"].contains(&rest))
        })
    {
        return Some(Unit { is: *is, bytes: true });
    }
    let name = name.to_lowercase();
    let (_, is) = of.units().iter().find(|(own, _)| *own == name)?;
    Some(Unit { is: *is, bytes: false })
}

/// Every dash that means minus, and every space and apostrophe that parts thousands, as one.
fn plain(c: char) -> char {
    match c {
        '\u{2212}' | '\u{2013}' => '-',
        '\u{a0}' | '\u{202f}' | '\u{2009}' | '\t' => ' ',
        '\u{2019}' => '\'',
        other => other,
    }
}

/// Multiplying by a unit leaves no dust behind the decimals.
fn tidy(value: f64) -> f64 {
    (value * 1e9).round() / 1e9
}

enum Number {
    None,
    One(f64),
    Either(f64, f64),
}

/// Longest number that is read, figures.
const FIGURES: usize = 15;

/// A number with its sign, in figures, points, commas, apostrophes and spaces.
fn number(figures: &str, style: Style) -> Number {
    let (sign, body) = match figures.as_bytes().first() {
        Some(b'-') => (-1.0, &figures[1..]),
        Some(b'+') => (1.0, &figures[1..]),
        _ => (1.0, figures),
    };
    let body = body.trim();
    if body.contains(['-', '+']) || body.chars().filter(char::is_ascii_digit).count() > FIGURES {
        return Number::None;
    }
    match unsigned(body, style) {
        Number::One(value) => Number::One(sign * value),
        Number::Either(a, b) => Number::Either(sign * a, sign * b),
        Number::None => Number::None,
    }
}

fn unsigned(body: &str, style: Style) -> Number {
    let count = |mark: char| body.matches(mark).count();
    let one = |value: Option<f64>| value.map_or(Number::None, Number::One);
    let parts_by = |mark: char| one(parse(body, Some(mark), None, style));
    match (count('.'), count(','), count('\'') + count(' ')) {
        (0, 0, 0) => one(parse(body, None, None, style)),
        (0, 0, _) if count('\'') == 0 => parts_by(' '),
        (0, 0, _) if count(' ') == 0 => parts_by('\''),
        // Both marks: the last is that of the decimals, and stands once.
        (1.., 1.., 0) => {
            let decimal = if body.rfind('.') > body.rfind(',') { '.' } else { ',' };
            let other = if decimal == '.' { ',' } else { '.' };
            one(parse(body, Some(other), Some(decimal), style))
        }
        (2.., 0, 0) => parts_by('.'),
        (0, 2.., 0) => parts_by(','),
        (1, 0, 0) | (0, 1, 0) => lone(body, style),
        (1, 0, _) | (0, 1, _) => {
            let decimal = if count('.') == 1 { '.' } else { ',' };
            let mark = if count(' ') > 0 { ' ' } else { '\'' };
            one(parse(body, Some(mark), Some(decimal), style))
        }
        _ => Number::None,
    }
}

/// A number with one mark: the home's own decimals, the home's own thousands, or the other's, which leaves doubt.
fn lone(body: &str, style: Style) -> Number {
    let mark = if body.contains('.') { '.' } else { ',' };
    let decimal = parse(body, None, Some(mark), style);
    let one = |value: Option<f64>| value.map_or(Number::None, Number::One);
    if mark == style.decimals.mark() {
        return one(decimal);
    }
    let thousands = parse(body, Some(mark), None, style);
    let leads = body.split(mark).next().unwrap_or_default();
    match (thousands, decimal) {
        (Some(thousands), _) if mark == style.thousands => Number::One(thousands),
        (Some(thousands), Some(decimal)) => Number::Either(thousands, decimal),
        // Nobody begins thousands with nothing.
        (None, decimal) if leads.is_empty() || leads == "0" => one(decimal),
        (None, Some(decimal)) => match body.replace(mark, "").parse::<f64>() {
            Ok(whole) if !body.ends_with(mark) => Number::Either(decimal, whole),
            _ => Number::None,
        },
        _ => Number::None,
    }
}

/// A number whose thousands are parted by this mark, and its decimals by that.
fn parse(body: &str, thousands: Option<char>, decimal: Option<char>, style: Style) -> Option<f64> {
    let (whole, rest) = match decimal {
        Some(mark) => {
            let (whole, rest) = body.split_once(mark)?;
            (whole, Some(rest))
        }
        None => (body, None),
    };
    let is_plain = |text: &str| text.bytes().all(|byte| byte.is_ascii_digit());
    let plain = match thousands {
        None => whole.to_owned(),
        Some(mark) => {
            let groups: Vec<&str> = whole.split(mark).collect();
            let (first, others) = groups.split_first()?;
            let (last, middle) = others.split_last()?;
            let twos = style.in_twos && mark == style.thousands && middle.iter().all(|own| own.len() == 2);
            let threes = middle.iter().all(|own| own.len() == 3);
            let begins = (1..=3).contains(&first.len()) && !first.starts_with('0');
            if !begins || last.len() != 3 || !(threes || twos) {
                return None;
            }
            groups.concat()
        }
    };
    let rest = rest.unwrap_or_default();
    if !is_plain(&plain) || !is_plain(rest) || plain.is_empty() && rest.is_empty() {
        return None;
    }
    format!("0{plain}.{rest}0").parse().ok()
}
