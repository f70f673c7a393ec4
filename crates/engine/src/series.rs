//! The usual series of a kit: the setups that whoever tries kit puts it through, to be tested at the same spots.

use busy_hen_home::{CableClass, Device, DeviceId, Enclosure, Home, Kit, Mode, Position, Setup, SetupId, Uplink, Via};
use busy_hen_units::Metres;

use crate::catalogue::{AsItComes, Catalogue};
use crate::geometry::{Plan, Point};
use crate::needs::room_need;
use crate::predict::ready::Ready;
use crate::predict::{Kept, Question};
use crate::spectrum::region;

/// Height at which a unit of a trial stands: on a table, common practice.
const ON_A_TABLE: Metres = Metres::new(0.8);

/// What makes new identities for the setups and devices of a series.
pub struct NewIds<'a> {
    /// A setup's.
    pub setup: &'a mut dyn FnMut() -> SetupId,
    /// A device's.
    pub device: &'a mut dyn FnMut() -> DeviceId,
}

/// The usual series of a kit, begun from where a setup's line enters: alone; a second unit half-way by a loose cable; the same by radio; and
/// the second unit in the weak room itself.
///
/// A kit that can't route hangs on the router there is. What the kit can't do is left out.
///
/// # Errors
/// In words, when the setup has no router or the kit serves nobody.
pub fn usual_series(
    home: &Home,
    base: &Setup,
    kit_key: &str,
    (plan, question, kept): (&Plan, Question, &Kept),
    ids: &mut NewIds<'_>,
) -> Result<Vec<Setup>, String> {
    let catalogue = Catalogue::of(home);
    let kit = catalogue.kit(kit_key).ok_or("This kit is not in the catalogue; choose another.")?;
    if kit.radios.is_empty() {
        return Err(format!("{} serves nobody by itself; a series is tried with kit that has Wi-Fi.", kit.name));
    }
    let root = base.root().ok_or("Place the router first: a series begins where the line enters.")?;
    let mut making = Making { home: home.clone(), name: Making::series_name(home, kit), kit, root, ids };
    let alone = making.setup("alone", Vec::new());
    let weak = weakest(home, &alone, plan, question, kept).ok_or("Draw the rooms first: a series is tried in them.")?;
    let weak_room = &plan.rooms[weak];
    let (there, half) = (plan.middle_of(weak_room), half_way(plan, root, weak));
    let mut list = vec![alone];
    let can = |mode: Mode| kit.modes.contains(&mode);
    let wired = [Mode::AccessPoint, Mode::MeshNode].into_iter().find(|mode| can(*mode));
    let by_air = [Mode::MeshNode, Mode::Repeater].into_iter().find(|mode| can(*mode));
    let in_weak = format!("second in {}, by radio", weak_room.name);
    if let Some(mode) = wired {
        let cable = Via::Cable { class: CableClass::Cat6, loose: true, riser: None };
        list.push(making.setup("second by loose cable", vec![(half, mode, Some(cable))]));
    }
    if let Some(mode) = by_air {
        list.push(making.setup("second by radio", vec![(half, mode, None)]));
        let place = Position { level_id: plan.levels[weak_room.level].id, ..flat(there) };
        list.push(making.setup(&in_weak, vec![(place, mode, None)]));
    }
    Ok(list)
}

fn flat(at: Point) -> Position {
    Position {
        level_id: busy_hen_home::LevelId::named(""),
        x_m: Metres::new(at.x),
        y_m: Metres::new(at.y),
        height_m: ON_A_TABLE,
    }
}

struct Making<'a, 'b> {
    /// The home with what is made so far, so that letters stay apart.
    home: Home,
    /// What the series is called.
    name: String,
    kit: &'a Kit,
    root: &'a Device,
    ids: &'a mut NewIds<'b>,
}

impl Making<'_, '_> {
    /// A setup of the first unit, or the router there is, and these further ones.
    fn setup(&mut self, what: &str, more: Vec<(Position, Mode, Option<Via>)>) -> Setup {
        let routes = self.kit.modes.contains(&Mode::Router);
        let mut first = self.root.clone();
        first.id = (self.ids.device)();
        if routes {
            first = self.unit("First unit", Mode::Router, self.root.at);
        }
        let mut devices = vec![first];
        // One that can't route is the first of its kind beside the router, in place of nothing.
        let alone_beside = !routes && more.is_empty();
        let places = if alone_beside { vec![(self.root.at, self.kit.modes[0], None)] } else { more };
        for (at, mode, via) in places {
            let mut unit = self.unit(if routes { "Second unit" } else { "Unit" }, mode, at);
            let to = devices[0].id;
            let usual = self.kit.usual_uplink(mode, to);
            unit.uplink = Some(via.map_or(usual, |via| Uplink::new(to, via)));
            devices.push(unit);
        }
        let mut setup = Setup::new((self.ids.setup)(), &self.home.next_setup_letter(), what, devices);
        setup.series = Some(self.name.clone());
        setup.why = format!("The usual series of {}.", self.kit.name);
        self.home.setups.push(setup.clone());
        setup
    }

    /// Name of the series: the kit's, cut to what a name may hold, with a number from the second on.
    fn series_name(home: &Home, kit: &Kit) -> String {
        let plain: String = kit.name.chars().take(60).collect();
        let taken = |name: &str| home.setups.iter().any(|own| own.series.as_deref() == Some(name));
        let numbered = (2..).map(|number| format!("{plain}, {number}"));
        std::iter::once(plain.clone()).chain(numbered).find(|name| !taken(name)).unwrap_or_default()
    }

    fn unit(&mut self, name: &str, mode: Mode, at: Position) -> Device {
        let region = region::find(&self.home.region);
        Device {
            id: (self.ids.device)(),
            name: name.into(),
            kit: self.kit.key.as_str().into(),
            mode,
            at,
            enclosure: Enclosure::Open,
            aerial: self.kit.aerial,
            managed_queue: false,
            firmware: None,
            hardware_address: None,
            settings_address: String::new(),
            hands_out: None,
            network_name: String::new(),
            guest_network: String::new(),
            there_already: false,
            radios: region.map(|region| self.kit.radio_settings(region)).unwrap_or_default(),
            uplink: None,
        }
    }
}

/// The room that gets least of what it needs, else least at all; outdoors only where a need is.
fn weakest(home: &Home, setup: &Setup, plan: &Plan, question: Question, kept: &Kept) -> Option<usize> {
    let middles = Ready::new(setup, plan, &question, kept).middles(home, setup, plan, &question, &kept.tables);
    let need = |index: usize| room_need(&home.brief, plan.rooms[index].id, question.reach);
    let any_need = (0..plan.rooms.len()).any(|index| need(index).is_some());
    (0..plan.rooms.len())
        .filter(|index| if any_need { need(*index).is_some() } else { !plan.rooms[*index].outdoors })
        .min_by(|a, b| {
            let part = |index: usize| {
                middles[index].down.get() / need(index).map_or(1.0, |need| need.down_mbps.get().max(0.1))
            };
            part(*a).total_cmp(&part(*b))
        })
}

/// The middle of the room that lies nearest to half the way to the weak room.
fn half_way(plan: &Plan, root: &Device, weak: usize) -> Position {
    let to = plan.middle_of(&plan.rooms[weak]);
    let from = plan.place(&root.at).unwrap_or(to);
    let half = Point { x: f64::midpoint(from.x, to.x), y: f64::midpoint(from.y, to.y), z: f64::midpoint(from.z, to.z) };
    let away = |index: &usize| plan.middle_of(&plan.rooms[*index]).distance(&half).get();
    let between = (0..plan.rooms.len()).filter(|index| *index != weak && !plan.rooms[*index].outdoors);
    let room = between.min_by(|a, b| away(a).total_cmp(&away(b))).unwrap_or(weak);
    Position { level_id: plan.levels[plan.rooms[room].level].id, ..flat(plan.middle_of(&plan.rooms[room])) }
}
