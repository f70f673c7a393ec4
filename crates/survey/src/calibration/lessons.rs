//! What was learnt, in words: only what the readings can tell from all else, and in groups where they can't tell which.

use busy_hen_catalogue::Material;
use busy_hen_floorplan::Plan;
use busy_hen_home::{Band, DeviceId, SpotId, WallKey};
use busy_hen_predict::calibration::observation::{Unknown, material_of};
use busy_hen_predict::calibration::prior::widths;
use busy_hen_predict::calibration::{Calibration, Path, prior};
use busy_hen_radio::propagation::PartOfHouse;
use busy_hen_units::words::capitalised;
use busy_hen_units::{Db, Degrees, Megahertz};
use serde::Serialize;
use utoipa::ToSchema;

/// One thing that readings taught.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Lesson {
    /// What it is about.
    pub about: About,
    /// In words.
    pub told: String,
    /// By how much more is lost than was thought; less when negative.
    pub more_db: Db,
    /// One standard deviation of that.
    pub sure_to_db: Db,
    /// What the table says that it takes, at 5.5 GHz and square through; none where it is not about one material.
    pub by_table_db: Option<Db>,
    /// What it takes here, in the same way.
    pub here_db: Option<Db>,
    /// Walls, openings and floors that it is about, to be shown on the drawing.
    pub parts: Vec<PartOfHouse>,
    /// The spot that it is about.
    pub spot_id: Option<SpotId>,
}

impl Lesson {
    /// With what the table says of its material, and what that takes here: square through, and never less than nothing.
    fn of_material(self, material: &Material) -> Self {
        let by_table = material.loss(TOLD_AT, Degrees::new(0.0));
        let here = Db::new((by_table + self.more_db).get().max(0.0));
        Self { by_table_db: Some(by_table), here_db: Some(here), ..self }
    }
}

/// What a lesson is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum About {
    /// All of one material.
    Material,
    /// A wall, opening or floor, or some that can't be told apart.
    Part,
    /// A radio.
    Radio,
    /// The test device.
    Client,
    /// Furniture and people, or all paths.
    Home,
    /// How well the air is used.
    Air,
    /// A spot that something shadows.
    Spot,
    /// Readings that are far off all others.
    Odd,
}

/// Frequency at which decibels are told.
const TOLD_AT: Megahertz = Megahertz::new(5500.0);
/// A change smaller than this is not worth a word, dB.
const WORTH_A_WORD: f64 = 1.5;
/// A lesson is told when the readings left at most this part of how far it was unsure.
const SUPPORTED: f64 = 0.75;
/// A change is told when it is this many deviations from none.
const SURELY: f64 = 1.5;
/// How far off all others a reading is odd, in deviations.
const ODD: f64 = 4.0;
/// In the middle readings are off by no more than this for what walls and radios may be, dB.
const BEYOND_ALL: f64 = 15.0;
/// A shadow at a spot worth telling, dB.
const SHADOWED: f64 = 6.0;
/// Air that carries this much less or more is worth telling.
const AIR_WORTH: f64 = 0.07;

/// A sum of unknowns: what each counts for, dB a standard deviation.
type Sum = Vec<(usize, f64)>;

/// Mean, and standard deviations after and before.
struct Known {
    mean: f64,
    after: f64,
    before: f64,
}

impl Known {
    /// Whether the readings say it, and it is worth saying.
    fn is_worth_telling(&self) -> bool {
        self.mean.abs() >= WORTH_A_WORD.max(SURELY * self.after) && self.after <= SUPPORTED * self.before
    }

    fn lesson(&self, about: About, told: String, parts: Vec<PartOfHouse>) -> Lesson {
        let (more_db, sure_to_db) = (Db::new(self.mean), Db::new(self.after));
        Lesson { about, told, more_db, sure_to_db, by_table_db: None, here_db: None, parts, spot_id: None }
    }

    /// "3 dB more", "1.5 dB less".
    fn more(&self) -> String {
        let word = if self.mean > 0.0 { "more" } else { "less" };
        format!("{} {word}", decibels(self.mean.abs()))
    }

    fn sure(&self) -> String {
        format!("sure to {}", decibels(self.after))
    }
}

fn decibels(db: f64) -> String {
    if db < 2.95 { format!("{db:.1} dB") } else { format!("{db:.0} dB") }
}

/// What was learnt, in words, what matters most first. `device` names devices.
#[must_use]
pub fn lessons(learnt: &Calibration, plan: &Plan, device: &dyn Fn(DeviceId) -> String, inches: bool) -> Vec<Lesson> {
    let mut list = of_house(learnt, plan, inches);
    list.extend(of_radios(learnt, device));
    list.sort_by(|a, b| b.more_db.get().abs().total_cmp(&a.more_db.get().abs()));
    list.extend(of_all(learnt));
    list.extend(of_air(learnt));
    list.extend(of_spots(learnt, plan));
    list.extend(odd(learnt, plan, device));
    list
}

fn known_of(learnt: &Calibration, sum: &Sum) -> Known {
    let of: Vec<usize> = sum.iter().map(|(unknown, _)| *unknown).collect();
    let covariance = learnt.fit.covariance(&of);
    let mut variance = 0.0;
    for (i, (_, a)) in sum.iter().enumerate() {
        for (j, (_, b)) in sum.iter().enumerate() {
            variance += a * b * covariance[(i, j)];
        }
    }
    Known {
        mean: sum.iter().map(|(unknown, scale)| scale * learnt.means[*unknown]).sum(),
        after: (variance.max(0.0) * learnt.fit.scatter).sqrt(),
        before: sum.iter().map(|(_, scale)| scale * scale).sum::<f64>().sqrt(),
    }
}

fn of_house(learnt: &Calibration, plan: &Plan, inches: bool) -> Vec<Lesson> {
    let mut list = Vec::new();
    let mut words_of: Vec<&str> = Vec::new();
    let name = |key: &str| {
        busy_hen_catalogue::materials::find(key)
            .map_or_else(|| key.to_owned(), |own| if inches { own.name_in_inches.clone() } else { own.name.clone() })
    };
    let mut parts: Vec<(PartOfHouse, &str, Sum, Sum)> = Vec::new();
    for (unknown, index) in &learnt.unknowns {
        match unknown {
            Unknown::Material(key) => {
                let Some(material) = busy_hen_catalogue::materials::find(key) else { continue };
                let known = known_of(learnt, &vec![(*index, widths(material, TOLD_AT).1.get())]);
                if known.is_worth_telling() {
                    words_of.push(key);
                    let told =
                        format!("All {} here takes {} than the table says, {}.", name(key), known.more(), known.sure());
                    let made_of = plan.walls.iter().filter(|wall| wall.material.key == *key);
                    let parts = made_of.map(|wall| PartOfHouse::Wall(wall.key)).collect();
                    list.push(known.lesson(About::Material, told, parts).of_material(material));
                }
            }
            Unknown::Part(part, key) => {
                let Some(material) = material_of(plan, *part).filter(|own| own.key == *key) else { continue };
                let (single, common) = widths(material, TOLD_AT);
                let own = vec![(*index, single.get())];
                let together = learnt.unknowns.get(&Unknown::Material(key.clone()));
                let mut all = own.clone();
                all.extend(together.map(|index| (*index, common.get())));
                parts.push((*part, key, own, all));
            }
            _ => {}
        }
    }
    // What hash maps hold comes in no order.
    parts.sort_by_key(|(part, ..)| *part);
    let mut left: Vec<&(PartOfHouse, &str, Sum, Sum)> = Vec::new();
    for part in &parts {
        // Of a material that is told as such, a part is told only by what it takes beside.
        let sum = if words_of.contains(&part.1) { &part.2 } else { &part.3 };
        let known = known_of(learnt, sum);
        if known.is_worth_telling() {
            let whole = known_of(learnt, &part.3);
            let told = format!(
                "{} takes {} than {}, {}.",
                capitalised(&part_name(plan, part.0)),
                whole.more(),
                name(part.1),
                whole.sure()
            );
            let lesson = whole.lesson(About::Part, told, vec![part.0]);
            list.push(match material_of(plan, part.0) {
                Some(material) => lesson.of_material(material),
                None => lesson,
            });
        } else if known_of(learnt, &part.2).mean.abs() > WORTH_A_WORD / 3.0 {
            left.push(part);
        }
    }
    list.extend(groups(learnt, plan, &left));
    list
}

/// Parts that the readings can't tell from one another, but whose sum they know: those that hang together most first.
fn groups(learnt: &Calibration, plan: &Plan, left: &[&(PartOfHouse, &str, Sum, Sum)]) -> Vec<Lesson> {
    let indices: Vec<usize> = left.iter().map(|part| part.2[0].0).collect();
    let covariance = learnt.fit.covariance(&indices);
    let mut pairs: Vec<(f64, usize, usize)> = Vec::new();
    for i in 0..left.len() {
        for j in 0..i {
            pairs.push((covariance[(i, j)], i, j));
        }
    }
    pairs.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut taken: Vec<usize> = Vec::new();
    let mut list = Vec::new();
    for (shared, i, j) in pairs {
        if shared > -0.02 || taken.contains(&i) || taken.contains(&j) {
            continue;
        }
        let sum: Sum = left[i].2.iter().chain(&left[j].2).copied().collect();
        let known = known_of(learnt, &sum);
        if known.is_worth_telling() {
            taken.extend([i, j]);
            let told = format!(
                "{} and {} together take {} than their materials say, {}; the readings can't tell which.",
                capitalised(&part_name(plan, left[i].0)),
                part_name(plan, left[j].0),
                known.more(),
                known.sure()
            );
            list.push(known.lesson(About::Part, told, vec![left[i].0, left[j].0]));
        }
    }
    list
}

fn of_radios(learnt: &Calibration, device: &dyn Fn(DeviceId) -> String) -> Vec<Lesson> {
    let weaker = |known: &Known| {
        let word = if known.mean > 0.0 { "weaker" } else { "stronger" };
        format!("{} {word}", decibels(known.mean.abs()))
    };
    let one = |unknown: &Unknown, scale: f64| learnt.unknowns.get(unknown).map(|index| (*index, scale));
    let mut radios: Vec<(DeviceId, Band)> = learnt
        .unknowns
        .keys()
        .filter_map(|own| match own {
            Unknown::Radio(device, band) => Some((*device, *band)),
            _ => None,
        })
        .collect();
    radios.sort_by_key(|(id, band)| (device(*id), *band));
    let mut list: Vec<Lesson> = radios
        .iter()
        .filter_map(|(id, band)| {
            let known = known_of(learnt, &vec![one(&Unknown::Radio(*id, *band), prior::RADIO_DB)?]);
            let told =
                format!("{} on {band} is heard {} than its sheet says, {}.", device(*id), weaker(&known), known.sure());
            known.is_worth_telling().then(|| known.lesson(About::Radio, told, Vec::new()))
        })
        .collect();
    let mut clients: Vec<&String> = learnt
        .unknowns
        .keys()
        .filter_map(|own| if let Unknown::Client(key) = own { Some(key) } else { None })
        .collect();
    clients.sort();
    let mut whole: Sum = one(&Unknown::Home, prior::HOME_DB).into_iter().collect();
    if let [client] = clients[..] {
        whole.extend(one(&Unknown::Client(client.clone()), prior::CLIENT_DB));
    }
    let known = known_of(learnt, &whole);
    if known.is_worth_telling() {
        let told = format!(
            "Everything is heard {} than reckoned, {}: by the test device, or all over the home.",
            weaker(&known),
            known.sure()
        );
        list.push(known.lesson(About::Home, told, Vec::new()));
    }
    if let Some(clutter) = one(&Unknown::Clutter, 10.0 * prior::CLUTTER_DB_A_METRE) {
        let known = known_of(learnt, &vec![clutter]);
        if known.is_worth_telling() && known.mean.abs() >= 1.0 {
            let told =
                format!("Over ten metres furniture and people take {} than usual, {}.", known.more(), known.sure());
            list.push(known.lesson(About::Home, told, Vec::new()));
        }
    }
    list
}

/// Readings that lie farther off than walls and radios can be: then something else is not as it was noted.
fn of_all(learnt: &Calibration) -> Option<Lesson> {
    let mut off = learnt.off_by_tables.clone();
    off.sort_by(f64::total_cmp);
    let middle = busy_hen_predict::summary::quantile(&off, 0.5)?;
    (middle.abs() >= BEYOND_ALL && off.len() > 1).then(|| {
            let word = if middle > 0.0 { "weaker" } else { "stronger" };
            Lesson {
                about: About::Home,
                told: format!(
                    "Readings are {} {word} than reckoned, more than walls and radios can be off: see whether the house, the place of \
                     the router and the test device are as noted.",
                    decibels(middle.abs())
                ),
                more_db: Db::new(middle),
                sure_to_db: Db::new(0.0),
                by_table_db: None,
                here_db: None,
                parts: Vec::new(),
                spot_id: None,
            }
        })
}

fn of_air(learnt: &Calibration) -> Option<Lesson> {
    let air = learnt.air();
    ((air.part - 1.0).abs() >= AIR_WORTH && air.unsure <= SUPPORTED).then(|| {
        let (percent, word) = ((air.part - 1.0).abs() * 100.0, if air.part < 1.0 { "less" } else { "more" });
        Lesson {
            about: About::Air,
            told: format!("At the signals that were heard the air carries {percent:.0} % {word} than reckoned."),
            more_db: Db::new(0.0),
            sure_to_db: Db::new(0.0),
            by_table_db: None,
            here_db: None,
            parts: Vec::new(),
            spot_id: None,
        }
    })
}

/// Spots with more in the way than walls and floors explain.
fn of_spots(learnt: &Calibration, plan: &Plan) -> Vec<Lesson> {
    let mut list: Vec<Lesson> = Vec::new();
    for path in &learnt.paths {
        let Some(observation) = learnt.observations().iter().find(|own| own.path == *path) else { continue };
        let shadow = learnt.links(path.device, path.band, path.from, "").shadow(&learnt.near(path.to));
        if shadow.abs() < SHADOWED || list.iter().any(|own| own.spot_id == Some(observation.spot)) {
            continue;
        }
        let place = room_of(plan, path);
        let told = if shadow > 0.0 {
            format!(
                "At the spot in {place} signals are {} weaker than walls explain: something stands there.",
                decibels(shadow)
            )
        } else {
            format!(
                "At the spot in {place} signals are {} stronger than walls explain: there is a way that is not drawn.",
                decibels(-shadow)
            )
        };
        list.push(Lesson {
            about: About::Spot,
            told,
            more_db: Db::new(shadow),
            sure_to_db: Db::new(0.0),
            by_table_db: None,
            here_db: None,
            parts: Vec::new(),
            spot_id: Some(observation.spot),
        });
    }
    list
}

/// Readings far off what all others say.
fn odd(learnt: &Calibration, plan: &Plan, device: &dyn Fn(DeviceId) -> String) -> Vec<Lesson> {
    let odd = learnt.fit.active.iter().zip(&learnt.fit.far_off).filter(|(_, off)| off.abs() >= ODD);
    odd.map(|(row, off)| {
            let own = &learnt.observations()[*row];
            let word = if *off > 0.0 { "weaker" } else { "stronger" };
            Lesson {
                about: About::Odd,
                told: format!(
                    "What was read in {} of {} on {} is far {word} than all else says and counts for little: look at place, \
                     device and band again.",
                    room_of(plan, &own.path),
                    device(own.path.device),
                    own.path.band
                ),
                more_db: Db::new(own.off),
                sure_to_db: Db::new(0.0),
                by_table_db: None,
                here_db: None,
                parts: Vec::new(),
                spot_id: Some(own.spot),
            }
        })
        .collect()
}

fn room_of(plan: &Plan, path: &Path) -> String {
    let room = plan.rooms.iter().find(|room| plan.holds(room, &path.to));
    room.map_or_else(|| "the home".to_owned(), |room| room.name.clone())
}

/// "the wall between Kitchen and Hall", "the outer wall of Kitchen to the north", "the floor under First floor".
#[must_use]
pub fn part_name(plan: &Plan, part: PartOfHouse) -> String {
    let room = |id| plan.room(id).map_or_else(|| "a room".to_owned(), |room| room.name.clone());
    let wall = |key: WallKey| match key.beyond {
        Some(beyond) => format!("between {} and {}", room(key.room_id), room(beyond)),
        None => {
            let side = match key.side {
                busy_hen_home::Side::North => "north",
                busy_hen_home::Side::East => "east",
                busy_hen_home::Side::South => "south",
                busy_hen_home::Side::West => "west",
            };
            format!("of {} to the {side}", room(key.room_id))
        }
    };
    match part {
        PartOfHouse::Wall(key) => {
            let kind = if key.beyond.is_none() { "outer wall" } else { "wall" };
            format!("the {kind} {}", wall(key))
        }
        PartOfHouse::Opening { wall: key, opening: index } => {
            let own = plan.walls.iter().find(|own| own.key == key).and_then(|own| own.openings.get(index));
            let kind = match own.map(|own| own.kind) {
                Some(busy_hen_home::OpeningKind::Window) => "window",
                _ => "door",
            };
            format!("the {kind} {}", wall(key))
        }
        PartOfHouse::FloorUnder(level) => {
            let level = plan.levels.iter().find(|own| own.id == level);
            format!("the floor under {}", level.map_or("a level", |own| own.name.as_str()))
        }
    }
}
