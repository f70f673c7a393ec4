//! The usual series of a kit: the setups that whoever tries kit puts it through, to be tested at the same spots.

use busy_hen_catalogue::spectrum::{Region, region};
use busy_hen_catalogue::{AsItComes, Catalogue};
use busy_hen_floorplan::{Plan, Point};
use busy_hen_home::{CableClass, Device, DeviceId, Home, Kit, Mode, Position, Setup, SetupId, Uplink, Via};
use busy_hen_predict::needs::room_need;
use busy_hen_predict::ready::Ready;
use busy_hen_predict::{Knowledge, Question};

use crate::placing::{Stand, Unit, put_up, standing_place, usual_height};

/// A second unit nearer to the first than this tries nothing, m (common practice: a room apart at least).
const APART: f64 = 3.0;

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
    (plan, question, kept): (&Plan, Question, &Knowledge),
    ids: &mut NewIds<'_>,
) -> Result<Vec<Setup>, String> {
    let catalogue = Catalogue::of(home);
    let kit = catalogue.kit(kit_key).ok_or("This kit is not in the catalogue; choose another.")?;
    if kit.radios.is_empty() {
        return Err(format!("{} serves nobody by itself; a series is tried with kit that has Wi-Fi.", kit.name));
    }
    let region = region::find(&home.region).ok_or("Choose the home's country first.")?;
    let root = base.root().ok_or("Place the router first: a series begins where the line enters.")?;
    let name = Making::series_name(home, kit);
    let mut making = Making { home: home.clone(), name, kit, root, plan, region, ids };
    let alone = making.setup("alone", Vec::new());
    let weak = weakest(home, &alone, plan, question, kept).ok_or("Draw the rooms first: a series is tried in them.")?;
    let weak_room = &plan.rooms[weak];
    let (there, half) = (standing_place(plan, weak_room, kit), half_way(plan, root, weak, kit));
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
        list.push(making.setup(&in_weak, vec![(there, mode, None)]));
    }
    Ok(list)
}

struct Making<'a, 'b> {
    /// The home with what is made so far, so that letters stay apart.
    home: Home,
    /// What the series is called.
    name: String,
    kit: &'a Kit,
    root: &'a Device,
    plan: &'a Plan,
    region: &'a Region,
    ids: &'a mut NewIds<'b>,
}

impl Making<'_, '_> {
    /// A setup of the first unit, or the router there is, and these further ones.
    fn setup(&mut self, what: &str, more: Vec<(Stand, Mode, Option<Via>)>) -> Setup {
        let routes = self.kit.modes.contains(&Mode::Router);
        let mut first = self.root.clone();
        first.id = (self.ids.device)();
        if routes {
            first = self.unit("First unit", Mode::Router, (self.root.at, None), &[]);
        }
        let mut devices = vec![first];
        // One that can't route is the first of its kind beside the router, in place of nothing.
        let alone_beside = !routes && more.is_empty();
        let places = if alone_beside { vec![(self.root.at.into(), self.kit.modes[0], None)] } else { more };
        for (at, mode, via) in places {
            let at = at.high(usual_height(self.plan, self.kit, &at));
            let at = self.plan.free_place(at, &[devices[0].at]);
            let to = devices[0].id;
            let uplink = via.map_or_else(|| self.kit.usual_uplink(mode, to), |via| Uplink::new(to, via));
            let name = if routes { "Second unit" } else { "Unit" };
            devices.push(self.unit(name, mode, (at, Some(uplink)), &devices));
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

    fn unit(&mut self, name: &str, mode: Mode, (at, uplink): (Position, Option<Uplink>), beside: &[Device]) -> Device {
        let unit = Unit { id: (self.ids.device)(), name: name.into(), kit: self.kit, mode, at, uplink };
        let beside = Setup::new(SetupId::named(""), "", "", beside.to_vec());
        put_up(unit, &beside, self.plan, self.region)
    }
}

/// The room that gets least of what it needs, else least at all; outdoors only where a need is.
fn weakest(home: &Home, setup: &Setup, plan: &Plan, question: Question, kept: &Knowledge) -> Option<usize> {
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

/// A place in the room that lies nearest to half the way to the weak room, in another room than the first unit and well apart from it.
fn half_way(plan: &Plan, root: &Device, weak: usize, kit: &Kit) -> Stand {
    let to = plan.middle_of(&plan.rooms[weak]);
    let from = plan.place(&root.at).unwrap_or(to);
    let half = Point { x: f64::midpoint(from.x, to.x), y: f64::midpoint(from.y, to.y), z: f64::midpoint(from.z, to.z) };
    let first = plan.room_of(&root.at).map(|room| room.id);
    let place = |index: usize| {
        let stand = standing_place(plan, &plan.rooms[index], kit);
        let at = plan.place(&stand.high(usual_height(plan, kit, &stand)))?;
        Some((stand, at))
    };
    (0..plan.rooms.len())
        .filter(|index| *index != weak && !plan.rooms[*index].outdoors && Some(plan.rooms[*index].id) != first)
        .filter_map(place)
        .filter(|(_, at)| at.distance(&from).get() >= APART)
        .min_by(|a, b| a.1.distance(&half).get().total_cmp(&b.1.distance(&half).get()))
        .map_or_else(|| standing_place(plan, &plan.rooms[weak], kit), |own| own.0)
}
