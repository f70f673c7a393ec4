//! What differs between two states of a home, in words: the names of steps to undo, and what has changed since a round was taken.

use busy_hen_home::{Brief, Device, Home, House, LengthUnit, Level, LevelId, Setup, SetupId, Via};
use busy_hen_units::Metres;

use busy_hen_floorplan::lines::{Fittings, Placed};
use busy_hen_floorplan::{Rect, Typed, adopt, draw};

/// One thing that differs.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Change {
    /// As a step: "move Landing node".
    pub step: String,
    /// As told of the past: "Landing node moved 2.1 m".
    pub told: String,
    /// Whether readings taken before it may mean something else after it.
    pub bears_on_readings: bool,
}

/// Everything that differs between two states of a home, thing by thing.
#[must_use]
pub fn changes(before: &Home, after: &Home) -> Vec<Change> {
    let mut list = List(Vec::new());
    list.when(before.name != after.name, "rename the home", "the home was renamed", false);
    list.when(before.region != after.region, "another country", "the country's radio rules changed", true);
    list.when(before.units != after.units, "another unit of length", "lengths are shown in another unit", false);
    brief(before, after, &mut list);
    house(before, after, &mut list);
    list.when(before.own_kit != after.own_kit, "edit of own kit", "what is known of own kit changed", false);
    list.when(before.passwords != after.passwords, "edit of what passwords are kept", "kept passwords changed", false);
    list.when(before.decision != after.decision, "decision on a setup", "it was decided which setup is kept", false);
    list.when(
        before.in_force != after.in_force && before.decision == after.decision,
        "setup in force",
        "another setup is in force",
        false,
    );
    list.when(
        before.archived != after.archived,
        "put the job away or take it out",
        "the job was put away or taken out",
        false,
    );
    list.when(
        before.tables_alone != after.tables_alone,
        "learning from readings on or off",
        "learning from readings was switched on or off",
        false,
    );
    let order = |home: &Home, other: &Home| -> Vec<SetupId> {
        home.setups.iter().map(|own| own.id).filter(|id| other.setup(*id).is_some()).collect()
    };
    list.when(
        order(before, after) != order(after, before),
        "order of the setups",
        "the setups were put in order",
        false,
    );
    list.when(before.air != after.air, "edit of the neighbours", "the neighbours’ networks changed", true);
    for (setup, now) in before.setups.iter().filter_map(|setup| Some((setup, after.setup(setup.id)?))) {
        of_setup(setup, now, after.units, &mut list);
    }
    for setup in after.setups.iter().filter(|setup| before.setup(setup.id).is_none()) {
        list.put(format!("new setup {}", setup.letter), format!("setup {} was made", setup.letter), false);
    }
    for setup in before.setups.iter().filter(|setup| after.setup(setup.id).is_none()) {
        list.put(format!("delete setup {}", setup.letter), format!("setup {} was deleted", setup.letter), true);
    }
    list.0
}

/// The name of the step from one state to another.
#[must_use]
pub fn step_name(before: &Home, after: &Home) -> String {
    let mut list = changes(before, after);
    match list.len() {
        0 => "edit".to_owned(),
        1 => list.remove(0).step,
        more => format!("{} and {} more", list.remove(0).step, more - 1),
    }
}

/// What has changed since a setup was tested that bears on its readings, as told of the past.
#[must_use]
pub fn since_tested(tested: &Home, setup: SetupId, now: &Home) -> Vec<String> {
    if now.setup(setup).is_none() {
        return vec!["the setup was deleted".to_owned()];
    }
    let only = |home: &Home| {
        let setups = home.setups.iter().filter(|own| own.id == setup).cloned().collect();
        Home { setups, ..home.clone() }
    };
    let bearing = changes(&only(tested), &only(now)).into_iter().filter(|change| change.bears_on_readings);
    bearing.map(|change| change.told).collect()
}

struct List(Vec<Change>);

impl List {
    fn put(&mut self, step: impl Into<String>, told: impl Into<String>, bears_on_readings: bool) {
        self.0.push(Change { step: step.into(), told: told.into(), bears_on_readings });
    }

    fn when(&mut self, differs: bool, step: &str, told: &str, bears: bool) {
        if differs {
            self.put(step, told, bears);
        }
    }
}

fn brief(before: &Home, after: &Home, list: &mut List) {
    let (was, is) = (&before.brief, &after.brief);
    list.when(was.complaint != is.complaint, "edit of the complaint", "the complaint was edited", false);
    list.when(was.plans != is.plans, "edit of the internet plans", "the internet plan changed", true);
    list.when(was.second_line != is.second_line, "edit of the second line", "the second line changed", true);
    list.when(was.uses != is.uses, "edit of who does what", "what the rooms need changed", false);
    list.when(was.complaints != is.complaints, "edit of the complaints", "the complaints were edited", false);
    list.when(was.devices != is.devices, "edit of the family's devices", "the family’s devices changed", false);
    list.when(was.wants != is.wants, "edit of what is wanted", "what is wanted changed", false);
    let rest = |brief: &Brief| Brief {
        complaint: String::new(),
        plans: Vec::new(),
        second_line: None,
        uses: Vec::new(),
        complaints: Vec::new(),
        devices: Vec::new(),
        wants: Vec::new(),
        ..brief.clone()
    };
    list.when(rest(was) != rest(is), "edit of the constraints", "the constraints changed", false);
}

fn house(before: &Home, after: &Home, list: &mut List) {
    if before.house == after.house && before.units == after.units {
        return;
    }
    let (was, mut is) = (Drawn::of(before), Drawn::of(after));
    // Rooms are told by where they stand in the earlier list, new ones behind.
    let place = |room: &Placed| was.rooms.iter().position(|own| own.name == room.name && own.level_id == room.level_id);
    let places: Vec<usize> =
        is.rooms.iter().enumerate().map(|(n, room)| place(room).unwrap_or(was.rooms.len() + n)).collect();
    is.fittings = is.fittings.with_rooms(|room| places[room]);
    let (before, after) = (&was.house, &is.house);
    for (level, now) in before.levels.iter().filter_map(|level| Some((level, after.level(level.id)?))) {
        of_level((level, &was), (now, &is), list);
    }
    for level in after.levels.iter().filter(|level| before.level(level.id).is_none()) {
        list.put(format!("new level {}", level.name), format!("the level {} was added", level.name), true);
    }
    for level in before.levels.iter().filter(|level| after.level(level.id).is_none()) {
        list.put(format!("delete level {}", level.name), format!("the level {} was deleted", level.name), true);
    }
    let materials = |house: &House| (house.outer_wall.clone(), house.inner_wall.clone(), house.windows.clone());
    let walls = materials(before) != materials(after) || was.fittings.walls != is.fittings.walls;
    list.when(walls, "edit of the walls", "what walls are made of changed", true);
    let openings = was.fittings.openings != is.fittings.openings;
    list.when(openings, "edit of doors and windows", "doors or windows changed", true);
    let lids = before.around.above != after.around.above || before.around.below != after.around.below;
    list.when(lids, "edit of what lies over and under", "what lies over and under changed", true);
    let stairs = was.fittings.stairs != is.fittings.stairs || before.around.stairs != after.around.stairs;
    list.when(stairs, "edit of the stairs", "the stairs changed", true);
    list.when(was.fittings.solids != is.fittings.solids, "edit of obstacles", "obstacles changed", true);
    let learnt = before.corrections != after.corrections;
    list.when(learnt, "edit of what walls were found to take", "what walls were found to take changed", false);
    let spots = before.spots.iter().filter_map(|spot| Some((spot, after.spots.iter().find(|own| own.id == spot.id)?)));
    let moved = spots.clone().any(|(spot, now)| spot != now);
    list.when(moved && before.levels == after.levels, "move a spot", "a spot was moved", true);
}

/// A house with what its lines come to, without which line says what.
struct Drawn {
    house: House,
    rooms: Vec<Placed>,
    fittings: Fittings,
}

impl Drawn {
    fn of(home: &Home) -> Self {
        let mut house = home.house.clone();
        adopt(&mut house, home.units);
        let Typed { rooms, fittings, .. } = draw(&house.levels, home.units);
        Self { house, rooms, fittings: fittings.without_sources() }
    }

    /// Where the rooms of a level lie, whatever they are called.
    fn outlines(&self, level: LevelId) -> impl Iterator<Item = (&[Rect], bool)> {
        self.rooms.iter().filter(move |room| room.level_id == level).map(|room| (&room.rects[..], room.outdoors))
    }
}

fn of_level((level, was): (&Level, &Drawn), (now, is): (&Level, &Drawn), list: &mut List) {
    let name = &now.name;
    if level.name != *name {
        list.put(format!("rename {} to {name}", level.name), format!("{} is now called {name}", level.name), false);
    }
    if !was.outlines(level.id).eq(is.outlines(level.id)) {
        list.put(format!("edit of the rooms of {name}"), format!("the rooms of {name} changed"), true);
    } else if level.lines != now.lines && was.fittings == is.fittings {
        list.put(format!("edit of the lines of {name}"), format!("the lines of {name} were edited"), false);
    }
    if level.tracing != now.tracing {
        list.put(format!("edit of the picture under {name}"), format!("the picture under {name} was placed"), false);
    }
    let differs = level.height_m != now.height_m || level.floor != now.floor;
    if differs {
        list.put(format!("height or floor of {name}"), format!("height or floor of {name} changed"), true);
    }
}

fn of_setup(setup: &Setup, now: &Setup, units: LengthUnit, list: &mut List) {
    if setup.name != now.name || setup.letter != now.letter {
        list.put(format!("rename setup {}", now.letter), format!("setup {} was renamed", now.letter), false);
    }
    if setup.steering != now.steering {
        list.put(format!("guidance in setup {}", now.letter), "how phones find a device changed", true);
    }
    let letter = &now.letter;
    list.when(setup.why != now.why, &format!("why setup {letter} is tried"), "why it is tried was edited", false);
    let away = if now.archived { "put away" } else { "take out" };
    list.when(setup.archived != now.archived, &format!("{away} setup {letter}"), "it was put away or taken out", false);
    let aside = setup.put_aside != now.put_aside;
    list.when(aside, &format!("findings put aside in setup {letter}"), "other findings are put aside", false);
    for (device, is) in setup.devices.iter().filter_map(|device| Some((device, now.device(device.id)?))) {
        of_device(device, is, units, list);
    }
    for device in now.devices.iter().filter(|device| setup.device(device.id).is_none()) {
        list.put(format!("place {}", device.name), format!("{} was added", device.name), true);
    }
    for device in setup.devices.iter().filter(|device| now.device(device.id).is_none()) {
        list.put(format!("take off {}", device.name), format!("{} was taken off", device.name), true);
    }
}

fn of_device(device: &Device, now: &Device, units: LengthUnit, list: &mut List) {
    let name = &now.name;
    if device.name != *name {
        list.put(format!("rename {} to {name}", device.name), format!("{} is now called {name}", device.name), false);
    }
    if device.at != now.at {
        let told = if device.at.level_id == now.at.level_id {
            let (dx, dy) = ((now.at.x_m - device.at.x_m).get(), (now.at.y_m - device.at.y_m).get());
            let moved = Metres::new(dx.hypot(dy).hypot((now.at.height_m - device.at.height_m).get()));
            format!("{name} moved {}", units.in_words(moved))
        } else {
            format!("{name} moved to another level")
        };
        list.put(format!("move {name}"), told, true);
    }
    if device.kit != now.kit || device.mode != now.mode {
        list.put(format!("kit or mode of {name}"), format!("{name} is of another kit or mode"), true);
    }
    let housing = device.enclosure != now.enclosure || device.aerial != now.aerial;
    if housing {
        list.put(format!("housing or aerials of {name}"), format!("housing or aerials of {name} changed"), true);
    }
    if device.firmware != now.firmware {
        list.put(format!("firmware of {name}"), format!("the firmware of {name} changed"), true);
    }
    if device.managed_queue != now.managed_queue {
        list.put(format!("queue of {name}"), format!("the queue of {name} changed"), true);
    }
    if device.radios != now.radios {
        list.put(format!("radios of {name}"), radios(device, now), true);
    }
    let networks = (&device.network_name, &device.guest_network) != (&now.network_name, &now.guest_network);
    if networks {
        list.put(format!("networks of {name}"), format!("{name} has other network names"), true);
    }
    if device.there_already != now.there_already {
        list.put(format!("who has {name}"), format!("{name} is there already, or is not"), false);
    }
    if device.hardware_address != now.hardware_address {
        list.put(format!("address of {name}"), format!("another hardware address of {name} was noted"), false);
    }
    let carried = |own: &Device| own.uplink.as_ref().map(|up| (up.to, as_it_carries(&up.via)));
    if carried(device) == carried(now) && device.uplink != now.uplink {
        list.put(format!("way of the cable to {name}"), format!("the cable to {name} lies another way"), false);
    } else if device.uplink != now.uplink {
        let by = now.uplink.as_ref().map_or("no uplink", |uplink| carrier(&uplink.via));
        list.put(format!("uplink of {name}"), format!("{name} now has its uplink by {by}"), true);
    }
}

/// What changed of a device's radios; of several changes the first.
fn radios(device: &Device, now: &Device) -> String {
    let name = &now.name;
    let first = device.radios.iter().zip(&now.radios).find(|(was, is)| was != is);
    match first {
        Some((was, is)) if was.on != is.on => {
            format!("{} of {name} was switched {}", is.band, if is.on { "on" } else { "off" })
        }
        Some((was, is)) if was.channel != is.channel => {
            format!("{} of {name} went from channel {} to {}", is.band, was.channel, is.channel)
        }
        Some((was, is)) if was.width_mhz.get().to_bits() != is.width_mhz.get().to_bits() => {
            format!("{} of {name} went from {:.0} to {:.0} wide", is.band, was.width_mhz, is.width_mhz)
        }
        Some((was, is)) if was.turned_down_db != is.turned_down_db => {
            format!(
                "{} of {name} was turned down by {:.0} instead of {:.0}",
                is.band, is.turned_down_db, was.turned_down_db
            )
        }
        _ => format!("radios of {name} changed"),
    }
}

/// What bears on readings of what carries an uplink: a cable carries the same whichever way it lies.
fn as_it_carries(via: &Via) -> Via {
    match via {
        Via::Cable { class, .. } => Via::cable(*class),
        other => other.clone(),
    }
}

fn carrier(via: &Via) -> &'static str {
    match via {
        Via::Cable { .. } => "cable",
        Via::Radio { .. } | Via::BestRadio => "radio",
        Via::Coax { .. } => "coax",
        Via::PowerLine { .. } => "power line",
    }
}
