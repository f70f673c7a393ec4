//! A whole house as plain text: what holds for all of it, then each level with its lines.
//!
//! ```text
//! lengths in metres
//! outer walls stone
//! inner walls brick
//! windows double glazing
//! under a timber floor
//! level Ground, 2.7 high, concrete floor
//! Hall 2 x 5
//! - door south
//! ```

use busy_hen_catalogue::{MaterialUse, materials};
use busy_hen_home::{Around, House, LengthUnit, Level, LevelId, MaterialKey};
use busy_hen_units::Metres;

use super::lengths::{read_length, write_length};
use super::place::same_name;
use super::restate::restate;
use super::words::{material_called, material_word};

/// What stands for a material that nobody said.
const UNSAID: &str = "not said";
/// Usual height of a level, floor to floor, m.
const USUAL_HEIGHT: f64 = 2.6;

/// What is wrong with the text of a house: in which line, counted from 1, and what to do.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("Line {line}: {told}")]
pub struct NotAHouse {
    /// The line, counted from 1.
    pub line: usize,
    /// One sentence.
    pub told: String,
}

/// The parts of a house that its text holds.
#[derive(Debug, Clone, PartialEq)]
pub struct WholeHouse {
    /// Levels from the lowest up.
    pub levels: Vec<Level>,
    /// What outer walls are made of.
    pub outer_wall: MaterialKey,
    /// What inner walls are made of.
    pub inner_wall: MaterialKey,
    /// What windows are glazed with.
    pub windows: MaterialKey,
    /// What lies over and under it, and whether stairs join its levels.
    pub around: Around,
}

fn said(key: &MaterialKey) -> &str {
    if key.0.starts_with("unsaid") { UNSAID } else { material_word(&key.0) }
}

/// A length without loss: in metres where feet and inches would round it.
fn exact(length: Metres, unit: LengthUnit) -> String {
    let text = write_length(length, unit);
    let chars: Vec<char> = text.chars().collect();
    match read_length(&chars, 0) {
        Some(Ok((read, _))) if (read.metres(unit).get() - length.get()).abs() < 1e-6 => text,
        _ => format!("{} m", length.get()),
    }
}

/// The text of a house.
#[must_use]
pub fn write_house(house: &House, unit: LengthUnit) -> String {
    let mut lines = vec![
        format!("lengths in {}", if unit == LengthUnit::Foot { "feet" } else { "metres" }),
        format!("outer walls {}", said(&house.outer_wall)),
        format!("inner walls {}", said(&house.inner_wall)),
        format!("windows {}", said(&house.windows)),
    ];
    let around = &house.around;
    lines.extend(around.above.as_ref().map(|floor| format!("under a {}", said(floor))));
    lines.extend(around.below.as_ref().map(|floor| format!("over a {}", said(floor))));
    lines.extend((!around.stairs).then(|| "no stairs".to_owned()));
    for level in &house.levels {
        let (height, floor) = (exact(level.height_m, unit), said(&level.floor));
        lines.push(format!("level {}, {height} high, {floor}", level.name.replace(',', " ")));
        lines.push(level.lines.trim_end().to_owned());
    }
    lines.join("\n") + "\n"
}

/// Reads the text of a house, its lengths for a home of this unit; levels of a name that a level has already keep its identity.
///
/// # Errors
/// The first line that says nothing a house can have; lines of rooms are taken as they are and told of on the drawing.
pub fn read_house(
    text: &str,
    unit: LengthUnit,
    known: &[Level],
    new: impl Fn(&str) -> LevelId,
) -> Result<WholeHouse, NotAHouse> {
    let unsaid = House::unsaid();
    let mut whole = WholeHouse {
        levels: Vec::new(),
        outer_wall: unsaid.outer_wall,
        inner_wall: unsaid.inner_wall,
        windows: unsaid.windows,
        around: Around::default(),
    };
    let mut own_unit = unit;
    for (index, line) in text.trim_start_matches('\u{feff}').lines().enumerate() {
        let wrong = |told: String| NotAHouse { line: index + 1, told };
        let lower = line.split('#').next().unwrap_or_default().trim().to_lowercase();
        if let Some(rest) = lower.strip_prefix("level ") {
            let name_length = rest.split(',').next().map_or(0, |name| name.chars().count());
            let name: String = line.trim().chars().skip(6).take(name_length).collect::<String>().trim().to_owned();
            let level = level(&name, rest, own_unit, &wrong)?;
            if whole.levels.iter().any(|own| same_name(&own.name, &name)) {
                return Err(wrong(format!("There is already a level called {name}; give this one another name.")));
            }
            let id = known.iter().find(|own| same_name(&own.name, &name)).map_or_else(|| new(&name), |own| own.id);
            whole.levels.push(Level { id, ..level });
        } else if let Some(level) = whole.levels.last_mut() {
            if !level.lines.is_empty() {
                level.lines.push('\n');
            }
            level.lines.push_str(line.trim_end());
        } else if !lower.is_empty() {
            of_all(&lower, &mut whole, &mut own_unit).map_err(wrong)?;
        }
    }
    if whole.levels.is_empty() {
        let told = "No level stands here; a house begins with a line such as “level Ground, 2.6 high, concrete floor”.";
        return Err(NotAHouse { line: 1, told: told.into() });
    }
    if own_unit != unit {
        whole.levels.iter_mut().for_each(|level| level.lines = restate(&level.lines, own_unit));
    }
    Ok(whole)
}

/// A line that holds for the whole house.
fn of_all(line: &str, whole: &mut WholeHouse, unit: &mut LengthUnit) -> Result<(), String> {
    let wall = |words: &str, unsaid: &str| material(words, unsaid, false);
    match line {
        "lengths in metres" | "lengths in meters" => *unit = LengthUnit::Metre,
        "lengths in feet" => *unit = LengthUnit::Foot,
        "no stairs" => whole.around.stairs = false,
        _ => {
            if let Some(words) = line.strip_prefix("outer walls ") {
                whole.outer_wall = wall(words, "unsaid_outer")?;
            } else if let Some(words) = line.strip_prefix("inner walls ") {
                whole.inner_wall = wall(words, "unsaid_inner")?;
            } else if let Some(words) = line.strip_prefix("windows ") {
                whole.windows = wall(words, "unsaid_glazing")?;
            } else if let Some(words) = line.strip_prefix("under a ") {
                whole.around.above = Some(material(words, "unsaid_floor", true)?);
            } else if let Some(words) = line.strip_prefix("over a ") {
                whole.around.below = Some(material(words, "unsaid_floor", true)?);
            } else {
                return Err(format!(
                    "“{line}” is not understood before the first level; write “level” and its name before the lines of its rooms."
                ));
            }
        }
    }
    Ok(())
}

fn level(name: &str, rest: &str, unit: LengthUnit, wrong: &impl Fn(String) -> NotAHouse) -> Result<Level, NotAHouse> {
    if name.is_empty() {
        return Err(wrong("The name of the level is missing.".into()));
    }
    let mut level = Level {
        id: LevelId::named(name),
        name: name.to_owned(),
        height_m: Metres::new(USUAL_HEIGHT),
        floor: "unsaid_floor".into(),
        lines: String::new(),
        tracing: None,
    };
    for piece in rest.split(", ").skip(1).map(str::trim) {
        if let Some(height) = piece.strip_suffix("high") {
            let chars: Vec<char> = height.trim().chars().collect();
            let length = match read_length(&chars, 0) {
                Some(Ok((length, end))) if end == chars.len() => length.metres(unit),
                _ => return Err(wrong(format!("“{}” is no height.", height.trim()))),
            };
            level.height_m = length;
        } else {
            level.floor = material(piece, "unsaid_floor", true).map_err(wrong)?;
        }
    }
    Ok(level)
}

fn material(words: &str, unsaid: &str, floor: bool) -> Result<MaterialKey, String> {
    let words = words.trim();
    if words == UNSAID {
        return Ok(MaterialKey::from(unsaid));
    }
    let fits = |key: &&str| materials::find(key).is_some_and(|own| (own.category == MaterialUse::Floor) == floor);
    let what = if floor { "floor" } else { "wall" };
    material_called(words).filter(fits).map(MaterialKey::from).ok_or_else(|| format!("No {what} is called “{words}”."))
}
