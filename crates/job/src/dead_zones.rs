//! Dead zones: where they are, how likely, by what link and wall, and the cheapest remedies, each computed as a what-if.

use busy_hen_catalogue::kit::offered_channels;
use busy_hen_catalogue::spectrum::region;
use busy_hen_catalogue::{Catalogue, clients};
use busy_hen_floorplan::{Plan, PlanRoom, Point};
use busy_hen_home::{
    Aerial, CableClass, Device, DeviceId, Doors, Enclosure, Home, Kit, Mode, Plan as InternetPlan, RoomId, Setup,
    SpotId, TestKind, Uplink, Via, Weather,
};
use busy_hen_predict::evaluator::{Losses, Middle};
use busy_hen_predict::ledger::LedgerRow;
use busy_hen_predict::map::DeadZone;
use busy_hen_predict::needs::{Shortfall, Verdict, need_of};
use busy_hen_predict::path::LinkKind;
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_radio::propagation::PartOfHouse;
use busy_hen_survey::calibration::lessons::part_name;
use busy_hen_units::{Db, Degrees, MbitPerSec, Millis, SquareMetres};
use serde::Serialize;
use utoipa::ToSchema;

use crate::findings::Broken;
use crate::parts::parts;
use crate::parts::ports::plug_in;
use crate::placing::{Unit, put_up, standing_place, usual_height};

/// What a dead zone is known by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum KnownBy {
    /// It was measured there.
    Measured,
    /// The stand-in made a reading up there.
    MadeUp,
    /// Predicted with what readings taught of the home.
    Learnt,
    /// Predicted by the tables.
    Tables,
}

/// A room, or a part of one, that does not get what it needs.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Zone {
    /// The room.
    pub room_id: RoomId,
    /// Its name.
    pub name: String,
    /// How much of it, as predicted.
    pub area_m2: SquareMetres,
    /// The whole room.
    pub room_area_m2: SquareMetres,
    /// What it is known by.
    pub known_by: KnownBy,
    /// How likely its need is not met at its worst place, 0 to 1.
    pub likely_part: f64,
    /// What is short at its worst place: as measured where it was, else as predicted.
    pub short_of: Shortfall,
    /// Why, in words: the link that limits there, or what makes answers late.
    pub cause: String,
    /// The wall or floor that most hangs on, in words; none where none is to blame.
    pub wall: Option<String>,
}

/// A wall that takes less than this of what one more decibel of it would is not to blame, dB a dB.
const TO_BLAME: f64 = 0.25;
/// A room is a zone from this likelihood on, also where its middle is well served.
const LIKELY: f64 = 0.5;

/// Dead zones over all levels, most certain and largest first. `zones` are those of the lit map, `rows` the ledger.
#[must_use]
pub fn zones(model: &Model<'_>, zones: &[DeadZone], rows: &[LedgerRow]) -> Vec<Zone> {
    let mut list: Vec<Zone> = model
        .wanted(rows)
        .filter_map(|row| {
            // What goes by cable has no dead zone where there is no port.
            row.need.filter(|_| !row.no_port)?;
            let room = model.plan.room(row.room_id)?;
            let zone = zones.iter().find(|zone| zone.room_id == row.room_id);
            let at = worst_place(model, zones, row)?;
            let likely_part = 1.0 - meets_part(model, at, room.id)?;
            let measured = row.measured_verdict == Some(Verdict::NotMet);
            if zone.is_none() && !measured && likely_part < LIKELY {
                return None;
            }
            let known_by = match (measured, row.made_up, model.learnt().is_some()) {
                (true, true, _) => KnownBy::MadeUp,
                (true, false, _) => KnownBy::Measured,
                (false, _, true) => KnownBy::Learnt,
                (false, _, false) => KnownBy::Tables,
            };
            let short_of = row.measured_least_met.filter(|_| measured).or_else(|| model.least_met(at, room.id))?;
            Some(Zone {
                room_id: room.id,
                name: room.name.clone(),
                area_m2: zone.map_or(SquareMetres::new(0.0), |zone| zone.area_m2),
                room_area_m2: room.area(),
                known_by,
                likely_part: if measured && !row.made_up { 1.0 } else { likely_part },
                cause: model.cause(at, room.id, Some(short_of)),
                // No wall makes an answer late that comes all the same.
                wall: wall_to_blame(model, at).filter(|_| !matches!(short_of, Shortfall::Delay { .. })),
                short_of,
            })
        })
        .collect();
    list.sort_by(|a, b| {
        let worth = |own: &Zone| own.likely_part * (1.0 + own.area_m2.get());
        worth(b).total_cmp(&worth(a)).then_with(|| a.name.cmp(&b.name))
    });
    list
}

/// Where a room gets least: where it was measured short of its need, else where the lit map or the ledger has it worst.
#[must_use]
pub fn worst_place(model: &Model<'_>, zones: &[DeadZone], row: &LedgerRow) -> Option<Point> {
    let room = model.plan.room(row.room_id)?;
    let place_of = |id: Option<SpotId>| {
        let spot = model.home().house.spots.iter().find(|spot| Some(spot.id) == id)?;
        model.plan.spot(spot).map(|own| own.1)
    };
    let zone = zones.iter().find(|zone| zone.room_id == row.room_id);
    let in_zone = zone.map(|zone| model.plan.in_hand(room.level, zone.x_m.get(), zone.y_m.get()));
    let measured = row.measured_spot_id.filter(|_| row.measured_short().is_some());
    Some(place_of(measured).or(in_zone).or_else(|| place_of(row.spot_id)).unwrap_or_else(|| model.plan.middle_of(room)))
}

/// How likely what a room needs is met at a place; none where it needs nothing.
#[must_use]
pub fn meets_part(model: &Model<'_>, at: Point, room: RoomId) -> Option<f64> {
    let need = model.need(room)?;
    Some(model.evaluator.meets_part(&model.losses_with_uncertainty(at), model.seat(Some(room)), &need))
}

/// The wall or floor that the nearest path to a place hangs on most.
fn wall_to_blame(model: &Model<'_>, at: Point) -> Option<String> {
    let losses = model.losses(at).middle;
    let radios = model.evaluator.accesses.iter().enumerate().filter(|(_, access)| access.port.is_none());
    let (nearest, _) = radios.min_by(|a, b| losses[a.0].get().total_cmp(&losses[b.0].get()))?;
    let leans = model.sensitivities_by(nearest, at);
    let wall = leans.iter().find(|lean| !matches!(lean.on, PartOfHouse::Opening { .. }))?;
    (wall.db_per_db >= TO_BLAME).then(|| part_name(model.plan, wall.on))
}

/// Something that would mend a dead zone, or some of it.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Remedy {
    /// What is to be done, in words.
    pub what: String,
    /// What arrives at the worst place then.
    pub then_mbps: MbitPerSec,
    /// How soon answers come there then.
    pub then_ms: Millis,
    /// How likely the room's need is met there then, 0 to 1.
    pub likely_part: f64,
    /// What it costs to buy more; none where a price is missing, 0 for what is free.
    pub costs: Option<f64>,
    /// Whether it takes no money and no tools.
    pub free: bool,
    /// Rooms whose need is no longer met then.
    pub loses: Vec<String>,
    /// Whether it can be tried as a copy of the setup.
    pub as_copy: bool,
    /// The setup with it done; none where it is no matter of the setup.
    #[serde(skip)]
    pub setup: Option<Setup>,
}

/// A remedy that gains less than this, as a ratio, is none.
const WORTH_DOING: f64 = 1.1;
/// ... unless it makes the need so much likelier to be met.
const SURER: f64 = 0.15;
/// PartOfHouse of a rod that are tried, degrees.
const LEANS: [f64; 3] = [0.0, 45.0, 90.0];
/// Channels tried of each radio.
const CHANNELS: usize = 12;

/// The zone, and what it is asked under.
#[derive(Debug, Clone, Copy)]
pub struct Problem<'a> {
    /// The home.
    pub home: &'a Home,
    /// The setup.
    pub setup: &'a Setup,
    /// The house.
    pub plan: &'a Plan,
    /// The question.
    pub question: Question,
    /// The room.
    pub room: RoomId,
    /// Its worst place.
    pub at: Point,
    /// What was measured there, where that was short of the room's need.
    pub measured: Option<MbitPerSec>,
}

/// A what-if of a dead zone. Where less was measured than is predicted, the way from each device that stays where it stood takes the
/// difference too, whatever its cause: what a prediction did not know of it does not know of the remedy either.
struct WhatIf<'a> {
    ailing: &'a Problem<'a>,
    kept: &'a Knowledge,
    /// Where each device stands.
    stood: Vec<(DeviceId, Point, Enclosure)>,
    beyond: Db,
}

/// Most loss that a reading is explained by, dB: beyond it nothing arrives anyway.
const BEYOND_LIMIT: f64 = 60.0;
/// Steps of halving that find it.
const HALVINGS: usize = 12;

impl<'a> WhatIf<'a> {
    fn of(ailing: &'a Problem<'a>, kept: &'a Knowledge) -> Self {
        let model = Model::new(ailing.home, ailing.setup, ailing.plan, ailing.question, kept);
        let stood = model.network().nodes.iter().map(|own| (own.id, own.at, own.enclosure)).collect();
        let mut what_if = Self { ailing, kept, stood, beyond: Db::new(0.0) };
        let Some(measured) = ailing.measured else { return what_if };
        let (mut low, mut high) = (0.0, BEYOND_LIMIT);
        if what_if.middle(&model).down <= measured {
            return what_if;
        }
        for _ in 0..HALVINGS {
            what_if.beyond = Db::new(f64::midpoint(low, high));
            if what_if.middle(&model).down > measured {
                low = what_if.beyond.get();
            } else {
                high = what_if.beyond.get();
            }
        }
        what_if.beyond = Db::new(high);
        what_if
    }

    fn model<'b>(&'b self, home: &'b Home, setup: &'b Setup, question: Question) -> Model<'b> {
        Model::new(home, setup, self.ailing.plan, question, self.kept)
    }

    fn add(&self, model: &Model<'_>, mut losses: Losses) -> Losses {
        for (access, loss) in losses.middle.iter_mut().enumerate() {
            let node = &model.network().nodes[model.evaluator.accesses[access].node];
            if self.stood.contains(&(node.id, node.at, node.enclosure)) {
                *loss += self.beyond;
                losses.each.iter_mut().for_each(|way| way[access] += self.beyond);
            }
        }
        losses
    }

    fn middle(&self, model: &Model<'_>) -> Middle {
        let losses = self.add(model, model.losses(self.ailing.at));
        model.evaluator.middle(&losses.middle, model.seat(Some(self.ailing.room)))
    }

    /// What arrives, with what is nothing told apart by signal.
    fn rank(&self, setup: &Setup) -> f64 {
        let model = self.model(self.ailing.home, setup, self.ailing.question);
        let losses = self.add(&model, model.losses(self.ailing.at)).middle;
        let middle = model.evaluator.middle(&losses, model.seat(Some(self.ailing.room)));
        let nearest = losses.iter().map(|loss| loss.get()).fold(f64::INFINITY, f64::min);
        middle.down.get() - nearest / 1000.0
    }

    fn outcome(&self, home: &Home, setup: &Setup, question: Question) -> Outcome {
        let Problem { plan, room, at, .. } = *self.ailing;
        let model = self.model(home, setup, question);
        let met = self.kept.wanted(&plan.rooms).filter_map(|room| {
            let need = model.need(room.id)?;
            let losses = model.losses(plan.middle_of(room)).middle;
            let got = model.evaluator.middle(&losses, model.seat(Some(room.id)));
            Some((room.id, need.met_by(got.down, got.up, got.latency)))
        });
        let met = met.collect();
        let likely = model.need(room).map_or(1.0, |need| {
            let losses = self.add(&model, model.losses_with_uncertainty(at));
            model.evaluator.meets_part(&losses, model.seat(Some(room)), &need)
        });
        let Middle { down, latency, .. } = self.middle(&model);
        Outcome { down, latency, likely, met }
    }
}

/// What a what-if comes to at the zone, and which rooms' needs it meets.
struct Outcome {
    down: MbitPerSec,
    latency: Millis,
    likely: f64,
    met: Vec<(RoomId, bool)>,
}

/// Remedies of a dead zone, free ones first, then by what they gain for what they cost.
///
/// # Complexity
/// O(what-ifs x rooms): some dozens of networks over a house that is prepared once
#[must_use]
pub fn remedies(ailing: Problem<'_>, kept: &Knowledge) -> Vec<Remedy> {
    let Problem { home, setup, plan, question, .. } = ailing;
    let what_if = WhatIf::of(&ailing, kept);
    let now = what_if.outcome(home, setup, question);
    let model = what_if.model(home, setup, question);
    let lacks = model.least_met(ailing.at, ailing.room).filter(|_| ailing.measured.is_none());
    let late = matches!(lacks, Some(Shortfall::Delay { .. }));
    let price = |setup: &Setup| parts(home, setup, plan).total;
    let price_now = price(setup);
    let mut list: Vec<Remedy> = Vec::new();
    let mut put = |what: String, after: &Outcome, free: bool, changed: Option<Setup>| {
        // More speed is no help where an answer comes too late.
        let gains = match late {
            true => after.latency.get() * WORTH_DOING < now.latency.get(),
            false => after.down.get() > WORTH_DOING * now.down.get() + 0.5,
        };
        let better = gains || (after.likely > now.likely + SURER && after.likely >= LIKELY);
        if !better {
            return;
        }
        let costs = match (&changed, free) {
            (_, true) => Some(0.0),
            (Some(changed), _) => price(changed).zip(price_now).map(|(then, now)| (then - now).max(0.0)),
            (None, _) => None,
        };
        let lost = |room: &(RoomId, bool)| {
            let was = now.met.iter().any(|(own, met)| *own == room.0 && *met);
            (was && !room.1).then(|| plan.room(room.0).map(|own| own.name.clone())).flatten()
        };
        let loses = after.met.iter().filter_map(lost).collect();
        let (then_mbps, then_ms, likely_part) = (after.down, after.latency, after.likely);
        list.push(Remedy {
            what,
            then_mbps,
            then_ms,
            likely_part,
            costs,
            free,
            loses,
            as_copy: changed.is_some(),
            setup: changed,
        });
    };
    if question.doors != Doors::Open {
        let open = Question { doors: Doors::Open, ..question };
        put("leave the doors open".to_owned(), &what_if.outcome(home, setup, open), true, None);
    }
    if let Some(root) = setup.root().filter(|root| !root.managed_queue && question.reach.is_internet()) {
        let mut managed = setup.clone();
        managed.devices.iter_mut().filter(|own| own.id == root.id).for_each(|own| own.managed_queue = true);
        let after = what_if.outcome(home, &managed, question);
        put(format!("let {} keep its queue short", root.name), &after, true, Some(managed));
    }
    for (what, changed, free) in kept.wanted(changes(&what_if)) {
        let after = what_if.outcome(home, &changed, question);
        put(what, &after, free, Some(changed));
    }
    for (what, lighter, free) in kept.wanted(wired(&ailing)) {
        put(what, &what_if.outcome(&lighter, setup, question), free, None);
    }
    if question.reach.is_internet()
        && let Some(plan) = home.brief.plan_of(question.reach, question.day)
        && is_limited_by_plan(&ailing, kept)
    {
        let mut faster = home.clone();
        let twice = |rate: MbitPerSec| MbitPerSec::new(2.0 * rate.get());
        let doubled = InternetPlan {
            down_mbps: twice(plan.down_mbps),
            up_mbps: twice(plan.up_mbps),
            usual_down_mbps: None,
            usual_up_mbps: None,
            ..plan.clone()
        };
        match faster.brief.second_line.as_mut().filter(|_| question.reach == TestKind::SecondLine) {
            Some(second) => second.plans = vec![doubled],
            None => faster.brief.plans = vec![doubled],
        }
        let after = what_if.outcome(&faster, setup, question);
        put(format!("a plan of {:.0} Mb/s", 2.0 * plan.down_mbps.get()), &after, false, None);
    }
    // Of what is alike in kind the best only; then free ones, then gain for money.
    list.sort_by(|a, b| {
        let worth = |own: &Remedy| {
            let gain = own.likely_part + (own.then_mbps.get().max(0.1) / now.down.get().max(0.1)).ln() / 10.0
                - 0.5 * own.loses.len() as f64;
            gain / (1.0 + own.costs.unwrap_or(200.0) / 50.0)
        };
        b.free.cmp(&a.free).then(worth(b).total_cmp(&worth(a)))
    });
    list
}

fn is_limited_by_plan(ailing: &Problem<'_>, kept: &Knowledge) -> bool {
    let model = Model::new(ailing.home, ailing.setup, ailing.plan, ailing.question, kept);
    let chain = model.chain(ailing.at, Some(ailing.room));
    chain.is_some_and(|chain| chain.limiting.is_some_and(|index| chain.links[index].kind == LinkKind::Plan))
}

/// Homes in which one thing that stands still goes by cable, so that what it takes leaves the air: words, the home, and whether a patch
/// cord is enough. Of what goes on in its room, the heaviest that something still does is taken as its own.
fn wired(ailing: &Problem<'_>) -> Vec<(String, Home, bool)> {
    let Problem { home, setup, plan, .. } = *ailing;
    let by_air = |class: &str| clients::find(class).is_some_and(|client| client.port_mbps.is_none());
    let still = home.brief.devices.iter().filter(|own| own.fixed && by_air(&own.class));
    still
        .filter_map(|own| {
            let room = plan.room(own.room_id?)?;
            let uses = home.brief.uses.iter().enumerate().filter(|(_, used)| used.room_id == room.id);
            let (heaviest, _) = uses.filter(|(_, used)| used.activity.stands_still()).max_by(|a, b| {
                need_of(a.1.activity).down_mbps.get().total_cmp(&need_of(b.1.activity).down_mbps.get())
            })?;
            let mut lighter = home.clone();
            let people = &mut lighter.brief.uses[heaviest].people;
            *people = people.saturating_sub(own.count.max(1));
            lighter.brief.uses.retain(|used| used.people > 0);
            let name = if own.name.trim().is_empty() { "what stands still" } else { own.name.trim() };
            let port = plug_in(setup, plan, room.id);
            let what = match port {
                Some(device) => format!("plug {name} in {} into {}", room.name, device.name),
                None => format!("a cable to {name} in {}", room.name),
            };
            Some((what, lighter, port.is_some()))
        })
        .collect()
}

/// Setups that might do better: words, the setup, and whether it is free.
///
/// Of each kind the best is taken that breaks no rule which the setup keeps now.
fn changes(what_if: &WhatIf<'_>) -> Vec<(String, Setup, bool)> {
    let (ailing, kept) = (what_if.ailing, what_if.kept);
    let Problem { home, setup, plan, question, .. } = *ailing;
    let mut list: Vec<(String, Setup, bool)> = Vec::new();
    let with = |id: DeviceId, change: &dyn Fn(&mut Device)| {
        let mut changed = setup.clone();
        changed.devices.iter_mut().filter(|own| own.id == id).for_each(change);
        changed
    };
    let before = Broken::of(home, setup, plan, question, kept);
    let now = what_if.rank(setup);
    let mut best_of = |tried: Vec<(String, Setup)>, free: bool| {
        let mut ranked: Vec<(f64, String, Setup)> =
            kept.wanted(tried).map(|(what, own)| (what_if.rank(&own), what, own)).filter(|own| own.0 > now).collect();
        ranked.sort_by(|a, b| b.0.total_cmp(&a.0));
        let may = |own: &&(f64, String, Setup)| !Broken::of(home, &own.2, plan, question, kept).adds_to(&before);
        let best = kept.wanted(&ranked).find(may);
        list.extend(best.map(|(_, what, own)| (what.clone(), own.clone(), free)));
    };
    let catalogue = Catalogue::of(home);
    let region = region::find(&home.region);
    for device in &setup.devices {
        for (index, radio) in device.radios.iter().enumerate() {
            if !radio.on {
                let on = with(device.id, &|own| own.radios[index].on = true);
                best_of(vec![(format!("switch {} of {} on", radio.band, device.name), on)], true);
                continue;
            }
            if radio.turned_down_db.get() > 0.0 {
                let full = with(device.id, &|own| own.radios[index].turned_down_db = Db::new(0.0));
                best_of(vec![(format!("turn {} of {} up again", radio.band, device.name), full)], true);
            }
            let outdoors = plan.room_of(&device.at).is_none_or(|room| room.outdoors);
            let channels =
                region.map(|own| offered_channels(own, radio.band, radio.width_mhz, outdoors)).unwrap_or_default();
            let other = channels.into_iter().filter(|channel| *channel != radio.channel).take(CHANNELS);
            let tried = other.map(|channel| {
                let changed = with(device.id, &|own| own.radios[index].channel = channel);
                (
                    format!("channel {channel} in place of {} at {} of {}", radio.channel, radio.band, device.name),
                    changed,
                )
            });
            best_of(tried.collect(), true);
        }
        if let Aerial::Rods { gain_dbi, .. } = device.aerial {
            let turned = LEANS.iter().flat_map(|lean| [0.0, 90.0].map(|towards| (*lean, towards)));
            let tried = turned.map(|(lean, towards)| {
                let aerial = Aerial::Rods { gain_dbi, lean: Degrees::new(lean), towards: Degrees::new(towards) };
                (format!("lean the rods of {} by {lean:.0}°", device.name), with(device.id, &|own| own.aerial = aerial))
            });
            best_of(tried.collect(), true);
        }
        if let Some(uplink) = &device.uplink {
            let rooms = plan.rooms.iter().filter(|room| !room.outdoors);
            let tried = rooms.filter_map(|room| {
                let kit = catalogue.kit(&device.kit.0)?;
                let stand = standing_place(plan, room, kit);
                let at = stand.high(usual_height(plan, kit, &stand));
                Some((format!("move {} to {}", device.name, room.name), with(device.id, &|own| own.at = at)))
            });
            best_of(tried.collect(), uplink.via.is_radio());
            if uplink.via.is_radio() {
                let to = uplink.to;
                let cable = with(device.id, &|own| own.uplink = Some(Uplink::new(to, Via::cable(CableClass::Cat6))));
                best_of(vec![(format!("a cable to {}", device.name), cable)], false);
            }
        }
    }
    // One more: by cable in the room itself, and by air wherever it serves the room best.
    best_of(one_more(ailing, ailing.room, true).into_iter().collect(), false);
    let indoors = plan.rooms.iter().filter(|room| !room.outdoors);
    best_of(indoors.filter_map(|room| one_more(ailing, room.id, false)).collect(), false);
    list
}

/// What there may be one more of: key and mode.
type More = (&'static str, Mode);
/// Takes a cable from any router, and power from an outlet.
const BY_CABLE: More = ("node_ax_dual", Mode::AccessPoint);
/// Takes a cable outdoors, and its power with it.
const OUTDOORS: More = ("ap_out_rods", Mode::AccessPoint);
/// Joins any router by air.
const BY_AIR: More = ("repeater_ac_1g", Mode::Repeater);
/// Feeds what takes its power by its cable.
const INJECTOR: &str = "injector_2g5";

/// The setup with one device more in a room, in words: a node of the family that is there, or what joins any router.
fn one_more(ailing: &Problem<'_>, room: RoomId, by_cable: bool) -> Option<(String, Setup)> {
    let Problem { home, setup, plan, .. } = *ailing;
    let (root, room) = (setup.root()?, plan.room(room)?);
    let catalogue = Catalogue::of(home);
    let meshes = |kit: &&Kit| kit.modes.contains(&Mode::MeshNode) && kit.facts.steers_with.is_some();
    let root_family = catalogue.kit(&root.kit.0).and_then(|kit| kit.facts.steers_with.clone());
    let there = setup.devices.iter().rev().filter_map(|own| catalogue.kit(&own.kit.0)).map(|own| &**own);
    let of_family =
        there.filter(meshes).find(|own| own.facts.steers_with == root_family).map(|own| (own, Mode::MeshNode));
    let found = |(key, mode): More| Some((&**catalogue.kit(key)?, mode));
    let any = match (by_cable, room.outdoors) {
        (true, true) => found(OUTDOORS),
        (true, false) => found(BY_CABLE),
        (false, _) => found(BY_AIR),
    };
    let stands = |own: &(&Kit, Mode)| !room.outdoors || own.0.facts.weather == Weather::Outdoors;
    let kind = of_family.filter(stands).or(any);
    with_one_more(ailing, root, room, kind?, by_cable)
}

fn with_one_more(
    ailing: &Problem<'_>,
    root: &Device,
    room: &PlanRoom,
    (kit, mode): (&Kit, Mode),
    by_cable: bool,
) -> Option<(String, Setup)> {
    let Problem { home, setup, plan, .. } = *ailing;
    let region = region::find(&home.region)?;
    let stand = standing_place(plan, room, kit);
    let at = plan.free_place(
        stand.high(usual_height(plan, kit, &stand)),
        &setup.devices.iter().map(|own| own.at).collect::<Vec<_>>(),
    );
    let word = match mode {
        Mode::AccessPoint => "access point",
        Mode::Repeater => "repeater",
        _ => "node",
    };
    let mut changed = setup.clone();
    let mut to = root.id;
    if kit.powered_by_cable {
        let id = DeviceId::named("an injector more");
        let kit = Catalogue::of(home).kit(INJECTOR)?.clone();
        let uplink = Some(Uplink::new(to, Via::cable(CableClass::Cat6)));
        let unit = Unit { id, name: "Injector".into(), kit: &kit, mode: Mode::Switch, at: root.at, uplink };
        changed.devices.push(put_up(unit, setup, plan, region));
        to = id;
    }
    let via = if by_cable { Via::cable(CableClass::Cat6) } else { Via::BestRadio };
    let id = DeviceId::named(&format!("one more in {}", room.id.0));
    let unit = Unit { id, name: format!("{} {word}", room.name), kit, mode, at, uplink: Some(Uplink::new(to, via)) };
    changed.devices.push(put_up(unit, setup, plan, region));
    let article = if mode == Mode::AccessPoint { "an" } else { "a" };
    let by = if by_cable { "by cable" } else { "by air" };
    Some((format!("{article} {word} more in {}, {by}", room.name), changed))
}
