//! A walk through the home with a phone in hand: which device serves step by step, and where it is handed over too late or too soon.
//!
//! Too sticky: it stays where another device would serve it better. Too eager: it was sent to a device that serves it worse. The same
//! client as the rest of the model: guided, it goes where it is served best; by itself it leaves a weak signal for a much stronger one;
//! where the device decides, it goes below that device's threshold.

use busy_hen_floorplan::{PlanRoom, Point};
use busy_hen_home::{DeviceId, LevelId, Position, Steering};
use busy_hen_predict::Model;
use busy_hen_predict::evaluator::{LEAVES, STRONGER};
use busy_hen_predict::handover::{BETTER, ENOUGH};
use busy_hen_predict::path::direction::Direction;
use busy_hen_units::{Dbm, Metres};
use serde::Serialize;
use utoipa::ToSchema;

use crate::parts::Ways;
use crate::parts::cabling::{Asked, Corner};
use crate::rounds::order::{WalkingOrder, walking_order};

/// A step of a walk, m.
const STEP: f64 = 0.5;
/// Steps between two times that devices send a phone off: kit waits some seconds before it does so again (engineering estimate).
const RESTS: usize = 6;
/// A stretch is spoken of from this length on, m: shorter ones nobody feels.
const SPOKEN_OF: f64 = 1.5;
/// Steps that may lie between two stretches which are told as one.
const CLOSE_BY: usize = 6;
/// Stretches that are told at most; all are drawn.
const TOLD: usize = 6;

/// How a hand-over was on a stretch of a walk.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WalkHow {
    /// As it should.
    Well,
    /// It stays where another device serves better.
    TooSticky,
    /// It was sent to a device that serves worse.
    TooEager,
}

/// A stretch of a walk over which the same holds.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WalkStretch {
    /// The level.
    pub level_id: LevelId,
    /// Its points.
    pub points: Vec<Corner>,
    /// The device that serves; none where nothing holds.
    pub device_id: Option<DeviceId>,
    /// How the hand-over was.
    pub how: WalkHow,
}

/// A hand-over on a walk.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WalkChange {
    /// The level.
    pub level_id: LevelId,
    /// East of the origin.
    pub x_m: Metres,
    /// South of the origin.
    pub y_m: Metres,
    /// The device that takes the phone.
    pub to: DeviceId,
}

/// A walk through all rooms.
#[derive(Debug, Clone, PartialEq, Default, Serialize, ToSchema)]
pub struct HandOverWalk {
    /// How long it is.
    pub length_m: Metres,
    /// Its stretches, in the order they are walked.
    pub stretches: Vec<WalkStretch>,
    /// The hand-overs.
    pub changes: Vec<WalkChange>,
    /// In sentences: where it is too sticky or too eager, the longest first; one that says so where it is neither.
    pub told: Vec<String>,
}

/// What one device brings at a place, by the radio of its own that serves best there.
#[derive(Debug, Clone, Copy)]
struct Brings {
    node: usize,
    access: usize,
    signal: Dbm,
    down: f64,
}

/// A place on the way.
struct Place<'a> {
    level_id: LevelId,
    at: Point,
    room: &'a PlanRoom,
}

/// What was met at a place.
struct Met<'a> {
    place: &'a Place<'a>,
    serving: Option<Brings>,
    best: Option<Brings>,
    how: WalkHow,
}

/// A walk through all rooms of the home by a short way, as the hand-over goes. Empty where one device alone serves, or nothing is
/// drawn.
///
/// # Complexity
/// A search for a way from room to room, and O(steps x radios)
#[must_use]
pub fn hand_over_walk(model: &Model<'_>) -> HandOverWalk {
    let accesses = &model.evaluator.accesses;
    let mut nodes: Vec<usize> = accesses.iter().filter(|own| own.port.is_none()).map(|own| own.node).collect();
    nodes.sort_unstable();
    nodes.dedup();
    let (places, length_m) = way(model);
    if nodes.len() < 2 || places.len() < 2 {
        return HandOverWalk::default();
    }
    let mut met: Vec<Met<'_>> = Vec::new();
    let mut changes = Vec::new();
    let (mut sent_to_worse, mut since) = (false, RESTS);
    for place in model.wanted(&places) {
        let brings = brings(model, place);
        let before = met.last().and_then(|own: &Met<'_>| own.serving).map(|own| own.node);
        let best = brings.iter().copied().max_by(|a, b| a.down.total_cmp(&b.down));
        let own = before.and_then(|node| brings.iter().copied().find(|own| own.node == node));
        since += 1;
        let serving = goes_on(model, own, &brings, best, since > RESTS);
        if let (Some(now), Some(was)) = (serving, before)
            && now.node != was
        {
            let (x_m, y_m) = (Metres::new(place.at.x), Metres::new(place.at.y));
            changes.push(WalkChange { level_id: place.level_id, x_m, y_m, to: model.network().nodes[now.node].id });
            since = 0;
            sent_to_worse = own.is_some_and(|own| own.down > BETTER * now.down);
        }
        let worse = serving.zip(best).is_some_and(|(own, best)| best.down > BETTER * own.down);
        sent_to_worse &= worse;
        let how = match (worse, sent_to_worse) {
            (false, _) => WalkHow::Well,
            (true, false) => WalkHow::TooSticky,
            (true, true) => WalkHow::TooEager,
        };
        met.push(Met { place, serving, best, how });
    }
    HandOverWalk { length_m, stretches: stretches(model, &met), changes, told: spoken(model, &met) }
}

/// Places half a metre apart on a short way through the spots of all rooms, and how long that is.
fn way<'a>(model: &'a Model<'_>) -> (Vec<Place<'a>>, Metres) {
    let (home, plan) = (model.home(), model.plan);
    let indoors = |spot: &&busy_hen_home::Spot| plan.room(spot.room_id).is_some_and(|room| !room.outdoors);
    let spots: Vec<_> = home.house.spots.iter().filter(indoors).map(|spot| spot.id).collect();
    let order = walking_order(home, &spots, WalkingOrder::ShortWay, &std::collections::HashMap::new());
    let position = |id| -> Option<Position> {
        let (level, at) = plan.spot(home.house.spots.iter().find(|spot| spot.id == id)?)?;
        let (x_m, y_m) = (Metres::new(at.x), Metres::new(at.y));
        Some(Position { level_id: plan.levels[level].id, x_m, y_m, height_m: Metres::default() })
    };
    let stops: Vec<Position> = order.into_iter().filter_map(position).collect();
    let Some(ways) = Ways::new(plan) else { return (Vec::new(), Metres::default()) };
    let asked = Asked { on_foot: true, ..Asked::default() };
    let (mut list, mut length): (Vec<Place<'_>>, Metres) = Default::default();
    for route in stops.windows(2).filter_map(|pair| ways.route(&pair[0], &pair[1], asked)) {
        length += route.way_m;
        for stretch in route.stretches {
            let Some(level) = plan.level_index(stretch.level_id) else { continue };
            for (x, y) in even(&stretch.points) {
                let Some(room) = plan.room_at(level, x, y) else { continue };
                list.push(Place { level_id: stretch.level_id, at: plan.in_hand(level, x, y), room });
            }
        }
    }
    (list, length)
}

/// What each device brings at a place.
fn brings(model: &Model<'_>, place: &Place<'_>) -> Vec<Brings> {
    let losses = model.losses(place.at).middle;
    let seat = model.seat(Some(place.room.id));
    let mut list: Vec<Brings> = Vec::new();
    for (access, (own, loss)) in model.evaluator.accesses.iter().zip(&losses).enumerate() {
        if own.port.is_some() {
            continue;
        }
        let link = own.air.carried(&own.table, *loss);
        let down = model.evaluator.arrives(seat, &(access, link), Direction::Down).get().min(ENOUGH);
        if down <= 0.0 {
            continue;
        }
        let brings = Brings { node: own.node, access, signal: link.rssi, down };
        match list.iter_mut().find(|other| other.node == own.node) {
            Some(other) if other.down < down => *other = brings,
            Some(_) => {}
            None => list.push(brings),
        }
    }
    list
}

/// What serves next: the device that did, or the one that it is handed over to.
fn goes_on(
    model: &Model<'_>,
    own: Option<Brings>,
    brings: &[Brings],
    best: Option<Brings>,
    rested: bool,
) -> Option<Brings> {
    let (Some(own), Some(best)) = (own, best) else { return best };
    let access = &model.evaluator.accesses[own.access];
    let set = model.network().nodes[own.node].radios.get(access.radio).and_then(|radio| radio.hand_over);
    let loudest = brings
        .iter()
        .copied()
        .filter(|other| other.node != own.node)
        .max_by(|a, b| a.signal.get().total_cmp(&b.signal.get()));
    let Some(other) = loudest else { return Some(own) };
    let goes = match (model.network().steering, set) {
        // A name of its own is left only once it is gone.
        (Steering::OwnNames, _) => None,
        // The device sends it off, and it joins what it hears best.
        (_, Some(threshold)) => (rested && own.signal < threshold).then_some(other),
        (Steering::Guided, None) => (best.down > BETTER * own.down).then_some(best),
        (Steering::OneName, None) => (own.signal < LEAVES && other.signal >= own.signal + STRONGER).then_some(other),
    };
    Some(goes.unwrap_or(own))
}

/// Steps that are alike, as lines.
fn stretches(model: &Model<'_>, met: &[Met<'_>]) -> Vec<WalkStretch> {
    let mut list: Vec<WalkStretch> = Vec::new();
    for own in met {
        let place = own.place;
        let device_id = own.serving.map(|own| model.network().nodes[own.node].id);
        let at = Corner { x_m: Metres::new(place.at.x), y_m: Metres::new(place.at.y) };
        let last = list.last_mut().filter(|last| last.level_id == place.level_id);
        match last {
            Some(last) if last.device_id == device_id && last.how == own.how => last.points.push(at),
            last => {
                // A line goes on where the one before it ends.
                let from = last.and_then(|last| last.points.last().copied());
                let points = from.into_iter().chain([at]).collect();
                list.push(WalkStretch { level_id: place.level_id, points, device_id, how: own.how });
            }
        }
    }
    list
}

/// What is worth saying of a walk, the longest stretch first.
fn spoken(model: &Model<'_>, met: &[Met<'_>]) -> Vec<String> {
    let mut list: Vec<&[Met<'_>]> = [WalkHow::TooSticky, WalkHow::TooEager]
        .into_iter()
        .flat_map(|how| regions(met, how))
        .filter(|own| own.len() as f64 * STEP >= SPOKEN_OF)
        .collect();
    list.sort_by_key(|own| std::cmp::Reverse(own.len()));
    let told: Vec<String> = list.into_iter().take(TOLD).filter_map(|own| words_of(model, own)).collect();
    if told.is_empty() { vec!["Neither too sticky nor too eager anywhere on the way.".to_owned()] } else { told }
}

fn words_of(model: &Model<'_>, stretch: &[Met<'_>]) -> Option<String> {
    let name = |own: Brings| model.network().nodes[own.node].name.as_str();
    let how = stretch[0].how;
    let lost = |own: &&Met<'_>| own.best.zip(own.serving).map_or(0.0, |(best, own)| best.down / own.down.max(0.1));
    let ailing = stretch.iter().filter(|own| own.how == how);
    let worst = ailing.max_by(|a, b| lost(a).total_cmp(&lost(b)))?;
    let (own, best) = (worst.serving?, worst.best?);
    let mut rooms: Vec<&str> = stretch.iter().map(|own| own.place.room.name.as_str()).collect();
    rooms.dedup();
    let changes = |two: &&[Met<'_>]| two[0].serving.map(|own| own.node) != two[1].serving.map(|own| own.node);
    let (word, does) = match how {
        WalkHow::TooEager => {
            let times = stretch.windows(2).filter(changes).count() + 1;
            let often = if times > 2 { format!("{times} times, as to") } else { "to".to_owned() };
            ("Too eager", format!("is sent off {often}"))
        }
        _ => ("Too sticky", "stays on".to_owned()),
    };
    Some(format!(
        "{word} for {}, {}: the phone {does} {} ({:.0}, {:.0} Mb/s) where {} gives {:.0} Mb/s.",
        model.home().units.in_words(Metres::new(stretch.len() as f64 * STEP)),
        rooms.join(", "),
        name(own),
        own.signal,
        own.down,
        name(best),
        best.down
    ))
}

/// Stretches on which the hand-over is so, those that lie close by as one: a phone that is sent to and fro is meant once.
fn regions<'a, 'b>(met: &'b [Met<'a>], how: WalkHow) -> impl Iterator<Item = &'b [Met<'a>]> {
    let mut list: Vec<(usize, usize)> = Vec::new();
    for (index, _) in met.iter().enumerate().filter(|(_, own)| own.how == how) {
        match list.last_mut().filter(|(_, to)| index - *to <= CLOSE_BY) {
            Some((_, to)) => *to = index,
            None => list.push((index, index)),
        }
    }
    list.into_iter().map(|(from, to)| &met[from..=to])
}

/// Points at even steps along a line.
fn even(points: &[Corner]) -> Vec<(f64, f64)> {
    let mut list: Vec<(f64, f64)> = points.first().map(|own| (own.x_m.get(), own.y_m.get())).into_iter().collect();
    let mut left = STEP;
    for pair in points.windows(2) {
        let [(ax, ay), (bx, by)] = [pair[0], pair[1]].map(|own| (own.x_m.get(), own.y_m.get()));
        let length = (bx - ax).hypot(by - ay);
        let mut at = left;
        while at <= length {
            let part = at / length;
            list.push((ax + part * (bx - ax), ay + part * (by - ay)));
            at += STEP;
        }
        left = at - length;
    }
    list
}
