//! What the catalogue and the radio rules say against a home.

use busy_hen_home::{
    Band, CarriedBy, Device, Fault, Faults, Gap, Home, Mode, Outcome, Picture, Plan, Round, Run, TestKind,
};
use busy_hen_units::MbitPerSec;

use jiff::Timestamp;
use jiff::tz::TimeZone;

use busy_hen_catalogue::phy::rate::{Standard, phy_rate};
use busy_hen_catalogue::spectrum::channels::{WIDTHS, primaries};
use busy_hen_catalogue::spectrum::{Region, block, region};
use busy_hen_catalogue::{Catalogue, Kit, MaterialUse, clients, kit, materials};
use busy_hen_predict::path::ethernet_goodput;

/// Checks materials, kit, modes and channels against catalogue and radio rules, after [`Home::validate`].
///
/// # Errors
/// Every fault, each with a JSON pointer into the home.
pub fn check(home: &Home) -> Result<(), Faults> {
    home.validate()?;
    let mut faults = Vec::new();
    let mut fault = |pointer: String, message: String| faults.push(Fault { pointer, message });
    let Some(region) = region::find(&home.region) else {
        return Err(Faults::one(
            "/region",
            format!("The radio rules of “{}” are not known here; choose a country from the list.", home.region),
        ));
    };
    let house = &home.house;
    let mut material = |key: &str, floor: bool, pointer: String| {
        let known = materials::find(key).filter(|known| (known.category == MaterialUse::Floor) == floor);
        if known.is_none() {
            let kind = if floor { "floor" } else { "wall" };
            fault(pointer, format!("“{key}” is not a {kind} material here; choose one from the list."));
        }
    };
    material(&house.outer_wall.0, false, "/house/outer_wall".into());
    material(&house.inner_wall.0, false, "/house/inner_wall".into());
    for (index, level) in house.levels.iter().enumerate() {
        material(&level.floor.0, true, format!("/house/levels/{index}/floor"));
    }
    for (index, wall) in house.walls.iter().enumerate() {
        material(&wall.material.0, false, format!("/house/walls/{index}/material"));
    }
    for (lid, field) in [(&house.around.above, "above"), (&house.around.below, "below")] {
        if let Some(lid) = lid {
            material(&lid.0, true, format!("/house/around/{field}"));
        }
    }
    material(&house.windows.0, false, "/house/windows".into());
    for (index, opening) in house.openings.iter().enumerate() {
        material(&opening.material.0, false, format!("/house/openings/{index}/material"));
    }
    for (index, one) in home.air.iter().enumerate() {
        if block(one.band, one.channel, one.width_mhz).is_none() {
            fault(
                format!("/air/{index}/channel"),
                format!("There is no {:.0} channel at {} in {}; look again.", one.width_mhz, one.channel, one.band),
            );
        }
    }
    for (index, device) in home.brief.devices.iter().enumerate() {
        if clients::find(&device.class).is_none() {
            let told = format!("“{}” is no class of device here; choose one from the list.", device.class);
            fault(format!("/brief/devices/{index}/class"), told);
        }
    }
    for (index, kit) in home.own_kit.iter().enumerate() {
        own_kit(kit, &format!("/own_kit/{index}"), &mut faults);
    }
    let catalogue = Catalogue::of(home);
    for (s, setup) in home.setups.iter().enumerate() {
        for (d, one) in setup.devices.iter().enumerate() {
            device(one, &catalogue, region, &format!("/setups/{s}/devices/{d}"), &mut faults);
        }
    }
    Faults::check(faults)
}

/// A type of device of one's own must not be taken for one of the catalogue, and its radios must be such as there are.
fn own_kit(own: &Kit, at: &str, faults: &mut Vec<Fault>) {
    let mut fault = |pointer: String, message: String| faults.push(Fault { pointer, message });
    if kit::find(&own.key).is_some() {
        fault(format!("{at}/key"), format!("The catalogue has a “{}” already; choose another key.", own.key));
    }
    for (index, radio) in own.radios.iter().enumerate() {
        if block(radio.band, radio.default_channel, radio.max_width_mhz).is_none() {
            fault(
                format!("{at}/radios/{index}/default_channel"),
                format!(
                    "There is no {:.0} channel at {} in {}; choose another for {}.",
                    radio.max_width_mhz, radio.default_channel, radio.band, own.name
                ),
            );
        }
    }
}

fn device(device: &Device, catalogue: &Catalogue, region: &Region, at: &str, faults: &mut Vec<Fault>) {
    let mut fault = |pointer: String, message: String| faults.push(Fault { pointer, message });
    let name = &device.name;
    let Some(kit) = catalogue.kit(&device.kit.0) else {
        fault(format!("{at}/kit"), format!("{name} is of a kit that the catalogue does not have; choose another."));
        return;
    };
    if !kit.modes.contains(&device.mode) {
        fault(format!("{at}/mode"), format!("A {} can't be set to that mode; choose another for {name}.", kit.name));
    }
    if device.mode == Mode::Repeater && !device.uplink.as_ref().is_some_and(|uplink| uplink.via.is_radio()) {
        fault(
            format!("{at}/uplink"),
            format!("{name} is a repeater and needs a radio uplink; choose one, or make it an access point."),
        );
    }
    if matches!(device.mode, Mode::AccessPoint | Mode::Switch)
        && device.uplink.as_ref().is_some_and(|uplink| uplink.via.is_radio())
    {
        fault(
            format!("{at}/uplink"),
            format!("{name} needs a cable or a pair of adapters in that mode; choose one, or another mode."),
        );
    }
    if device.radios.len() != kit.radios.len() {
        let message = format!("{name} has {} radios set, its kit has {}.", device.radios.len(), kit.radios.len());
        fault(format!("{at}/radios"), message);
        return;
    }
    radios(device, kit, region, at, &mut fault);
}

fn radios(device: &Device, kit: &Kit, region: &Region, at: &str, fault: &mut impl FnMut(String, String)) {
    for (index, (setting, able)) in device.radios.iter().zip(&kit.radios).enumerate() {
        let at = format!("{at}/radios/{index}");
        let name = &device.name;
        let (channel, width) = (setting.channel, setting.width_mhz);
        if setting.band != able.band {
            fault(format!("{at}/band"), format!("Radio {} of {name} is a {} radio.", index + 1, able.band));
            continue;
        }
        if width > able.max_width_mhz {
            let message = format!("Radio {} of {name} is at most {:.0} wide.", index + 1, able.max_width_mhz);
            fault(format!("{at}/width_mhz"), message);
            continue;
        }
        match block(able.band, channel, width) {
            None => fault(
                format!("{at}/channel"),
                format!("There is no {:.0} channel at {channel} in {}; choose another.", width, able.band),
            ),
            Some(block) if setting.on && !region.allows(&block) => fault(
                format!("{at}/channel"),
                format!(
                    "Channel {channel} at {:.0} in {} is not allowed in {}; choose another for {name}.",
                    width, able.band, region.name
                ),
            ),
            Some(_) => {}
        }
    }
}

/// Most runs a spot gets in one round.
const RUNS_LIMIT: u32 = 30;
/// A reading faster than this is a slip, Mb/s.
const RATE_LIMIT: f64 = 100_000.0;
/// A round trip longer than this is a slip, ms.
const DELAY_LIMIT: f64 = 60_000.0;
/// Points a trace may have.
const TRACE_LIMIT: usize = 2000;
/// Spots of a round.
const SPOTS_LIMIT: usize = 2000;
/// Changes to confirm before a round.
const CONFIRMED_LIMIT: usize = 200;
/// Characters of anything that is noted.
const WORDS_LIMIT: usize = 200;
/// Farthest mark of a range walk, m.
const FAR_LIMIT: f64 = 5000.0;
/// Gaps of a walk.
const GAPS_LIMIT: usize = 10_000;
/// Years in which readings can have been taken.
const YEARS: std::ops::RangeInclusive<i16> = 2000..=2100;

fn within_words(text: &str) -> bool {
    text.chars().count() <= WORDS_LIMIT
}

/// Whether a moment lies in a year in which readings can have been taken.
fn credible(at: Timestamp) -> bool {
    YEARS.contains(&TimeZone::UTC.to_datetime(at).year())
}

const ALL_BANDS: [Band; 3] = [Band::Ghz2_4, Band::Ghz5, Band::Ghz6];

/// Checks what is known of a picture.
///
/// # Errors
/// Every fault, each with a JSON pointer into the picture.
pub fn check_picture(picture: &Picture) -> Result<(), Faults> {
    let mut faults = Vec::new();
    if !within_words(&picture.note) {
        let message = format!("The note of a picture has at most {WORDS_LIMIT} characters.");
        faults.push(Fault { pointer: "/note".into(), message });
    }
    if !credible(picture.at) {
        let message = "The picture was taken in a year that can't be right; look at the clock of the device.";
        faults.push(Fault { pointer: "/at".into(), message: message.into() });
    }
    Faults::check(faults)
}

/// Checks a round against the home it was taken in: setup, test device, band and spots.
///
/// # Errors
/// Every fault, each with a JSON pointer into the round.
pub fn check_round(home: &Home, round: &Round) -> Result<(), Faults> {
    let mut faults = Vec::new();
    let mut require = |holds: bool, pointer: &str, message: &str| {
        if !holds {
            faults.push(Fault { pointer: pointer.into(), message: message.into() });
        }
    };
    let setup = home.setup(round.setup_id);
    require(setup.is_some(), "/setup_id", "This home has no such setup; choose another.");
    require(
        setup.is_none_or(|setup| !setup.devices.is_empty()),
        "/setup_id",
        "This setup has no devices yet; place a router first.",
    );
    require(
        round.kind != TestKind::SecondLine || home.brief.second_line.is_some(),
        "/kind",
        "This home has no second line; put it into the brief first.",
    );
    let client = clients::find(&round.client);
    require(client.is_some(), "/client", "This test device is not in the catalogue; choose another.");
    let band_fits = round.band.is_none_or(|band| client.is_none_or(|client| client.has(band)));
    require(band_fits, "/band", "The test device does not have this band; choose another.");
    require(
        (1..=RUNS_LIMIT).contains(&round.runs_per_spot),
        "/runs_per_spot",
        "A spot gets 1 to 30 runs a round; five is usual.",
    );
    require(credible(round.begun), "/begun", "The round was begun in a year that can't be right.");
    require(round.spots.len() <= SPOTS_LIMIT, "/spots", "A round goes to at most 2000 spots.");
    require(!round.spots.is_empty(), "/spots", "A round needs at least one spot; choose some.");
    let known = |id| home.house.spots.iter().any(|spot| spot.id == id);
    require(round.spots.iter().all(|id| known(*id)), "/spots", "The round has a spot that the house does not have.");
    let unique: std::collections::BTreeSet<_> = round.spots.iter().collect();
    let recorded = round.on_record.as_ref().is_none_or(|record| {
        let far = record.far_end.as_ref().is_none_or(|own| within_words(own));
        let port = record.machine.as_ref().and_then(|machine| machine.port_mbps);
        far && within_words(&record.far_end_place)
            && record.kit_report.as_ref().is_none_or(|own| within_words(own))
            && record.machine.as_ref().is_none_or(|machine| within_words(&machine.interface))
            && port.is_none_or(|port| (1.0..=RATE_LIMIT).contains(&port.get()))
    });
    require(
        recorded,
        "/on_record",
        "What is on record has at most 200 characters a line, and a port up to 100000 Mb/s.",
    );
    let confirmed =
        round.confirmed.len() <= CONFIRMED_LIMIT && round.confirmed.iter().all(|own| within_words(&own.what));
    require(confirmed, "/confirmed", "At most 200 changes are confirmed, each in at most 200 characters.");
    require(unique.len() == round.spots.len(), "/spots", "The round goes to one spot twice; once is enough.");
    Faults::check(faults)
}

/// How far a reading may be over its ceiling before it is a fault of the reading: lines are often let run a little over what is sold
/// (common practice).
const OVER_CEILING: f64 = 1.1;

/// What a reading exceeds.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Ceiling {
    /// The most that could have been read.
    pub most: MbitPerSec,
    /// What was read.
    pub read: MbitPerSec,
    /// What sets the ceiling.
    pub by: CeilingBy,
}

/// What lets no more through.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum CeilingBy {
    /// The plan on record.
    Plan,
    /// A port of the router, or of the machine that answers.
    Port,
    /// The device in the hand, as wide as the channel is.
    Device,
}

impl CeilingBy {
    /// It in words, as in "is more than ...".
    #[must_use]
    pub fn in_words(self) -> &'static str {
        match self {
            Self::Plan => "the plan on record gives",
            Self::Port => "the router’s port lets through",
            Self::Device => "the device takes at all on this channel",
        }
    }
}

/// The most that the device of a run takes: by air its fastest link in the standard, as wide as the channel was, or as the setup has it.
fn most_of_device(tested: &Home, round: &Round, run: &Run) -> Option<MbitPerSec> {
    let under = run.under(round);
    let client = clients::find(&under.client)?;
    if run.carried_by == CarriedBy::Cable {
        return client.port_mbps.map(ethernet_goodput);
    }
    let held = run.band.or(under.band);
    let radios = tested.setup(round.setup_id)?.devices.iter().flat_map(|own| &own.radios);
    let widest = |band: Band| {
        let serving = radios.clone().filter(|own| own.on && own.serves && own.band == band);
        serving.map(|own| own.width_mhz).reduce(|a, b| if a < b { b } else { a })
    };
    let bands = client.bands.iter().filter(|own| held.is_none_or(|band| own.band == band));
    let rates = bands.filter_map(|own| {
        let width = run.width_mhz.or(widest(own.band)).unwrap_or(own.max_width_mhz);
        let width = if width < own.max_width_mhz { width } else { own.max_width_mhz };
        let generation = client.generation;
        let best = (0..=generation.highest_mcs()).rev().find(|mcs| generation.allows(width, client.streams, *mcs))?;
        phy_rate(generation, width, client.streams, best, generation.usual_guard())
    });
    rates.reduce(MbitPerSec::max)
}

/// Whether a measured run of the home's own network is over what plan, ports and the device in the hand let through: then the reading is at fault, or what is on
/// record of the home.
#[must_use]
pub fn over_ceiling(tested: &Home, round: &Round, run: &Run, plan: Option<&Plan>) -> Option<Ceiling> {
    let Outcome::Measured { down_mbps, up_mbps, .. } = &run.outcome else { return None };
    if !run.counts() {
        return None;
    }
    let catalogue = Catalogue::of(tested);
    let root = tested.setup(round.setup_id).and_then(|setup| setup.root());
    let kit = root.and_then(|device| catalogue.kit(&device.kit.0));
    let internet = run.under(round).kind.is_internet();
    let port = kit.map(|kit| if internet { kit.uplink_port_mbps } else { kit.lan_port_mbps }).map(ethernet_goodput);
    // A local test is no faster than the port of the machine that serves it.
    let machine = round.on_record.as_ref().and_then(|record| record.machine.as_ref()?.port_mbps).filter(|_| !internet);
    let port = [port, machine.map(ethernet_goodput)].into_iter().flatten().reduce(|a, b| if b < a { b } else { a });
    let sold = plan.filter(|_| internet);
    let device = most_of_device(tested, round, run);
    [(*down_mbps, sold.map(|plan| plan.down_mbps)), (*up_mbps, sold.map(|plan| plan.up_mbps))]
        .into_iter()
        .flat_map(|(read, sold)| {
            [(read, sold, CeilingBy::Plan), (read, port, CeilingBy::Port), (read, device, CeilingBy::Device)]
        })
        .filter_map(|(read, most, by)| Some(Ceiling { most: most?, read, by }))
        .find(|ceiling| ceiling.read.get() > OVER_CEILING * ceiling.most.get())
}

/// Checks a run that is to be added to a round: what [`check_run`] asks, and in a round that goes by marks that it has one. Rounds from before
/// that was asked may hold others.
///
/// # Errors
/// Every fault, each with a JSON pointer into the run.
pub fn check_new_run(home: &Home, round: &Round, run: &Run) -> Result<(), Faults> {
    if round.purpose.is_marked() && run.mark.is_none() {
        return Err(Faults::one("/mark", "This round goes by marks: say at which place the run was taken."));
    }
    check_run(home, round, run)
}

/// Checks a run against its round and the home that was taken in: spot, figures, serving device.
///
/// # Errors
/// Every fault, each with a JSON pointer into the run.
pub fn check_run(home: &Home, round: &Round, run: &Run) -> Result<(), Faults> {
    let mut faults = Vec::new();
    let mut require = |holds: bool, pointer: &str, message: String| {
        if !holds {
            faults.push(Fault { pointer: pointer.into(), message });
        }
    };
    require(round.spots.contains(&run.spot_id), "/spot_id", "This spot is not part of the round.".into());
    let serves = |id| home.setup(round.setup_id).is_some_and(|setup| setup.device(id).is_some());
    require(run.serving.is_none_or(serves), "/serving", "The serving device is not in the tested setup.".into());
    let rate = |rate: f64| (0.0..=RATE_LIMIT).contains(&rate);
    let delay = |delay: f64| delay > 0.0 && delay <= DELAY_LIMIT;
    if let Outcome::Measured { down_mbps, up_mbps, idle_ms, loaded_ms, jitter_ms, loss_percent } = &run.outcome {
        for (field, name, value) in [("down_mbps", "Download", down_mbps), ("up_mbps", "Upload", up_mbps)] {
            let message = format!("{name} must be 0 to {RATE_LIMIT} Mb/s, not {}.", value.get());
            require(rate(value.get()), &format!("/outcome/{field}"), message);
        }
        for (field, name, value) in [("idle_ms", "Idle delay", idle_ms), ("loaded_ms", "Delay under load", loaded_ms)] {
            let Some(value) = value else { continue };
            let message = format!("{name} must be over 0 and at most {DELAY_LIMIT} ms, not {}.", value.get());
            require(delay(value.get()), &format!("/outcome/{field}"), message);
        }
        let jitter = jitter_ms.is_none_or(|jitter| (0.0..=DELAY_LIMIT).contains(&jitter.get()));
        require(jitter, "/outcome/jitter_ms", "Jitter must be zero or more ms.".into());
        let loss = loss_percent.is_none_or(|loss| (0.0..=100.0).contains(&loss));
        require(loss, "/outcome/loss_percent", "Loss is 0 to 100 %.".into());
    }
    let span = |ms: f64| (0.0..=3.6e6).contains(&ms);
    let sound = match &run.outcome {
        Outcome::Film { check } => {
            let spans = [Some(check.started_ms), check.sought_ms, Some(check.stalled_ms), Some(check.watched_ms)];
            rate(check.rate_mbps.get()) && spans.into_iter().flatten().all(|own| span(own.get()))
        }
        Outcome::Call { check } => {
            rate(check.rate_mbps.get())
                && [check.delay_ms, check.longest_gap_ms, check.held_ms].iter().all(|own| span(own.get()))
        }
        Outcome::Walked { check } => {
            let gap =
                |gap: &Gap| span(gap.at_ms.get()) && span(gap.lasted_ms.get()) && round.spots.contains(&gap.after);
            span(check.delay_ms.get())
                && span(check.walked_ms.get())
                && check.gaps.len() <= GAPS_LIMIT
                && check.gaps.iter().all(gap)
        }
        Outcome::Measured { .. } | Outcome::NoConnection | Outcome::Heard | Outcome::Skipped => true,
    };
    require(
        sound,
        "/outcome",
        "A check lasts up to an hour, at rates that a home can have, at spots of its round.".into(),
    );
    let noted = run.note.as_ref().is_none_or(|note| within_words(note));
    require(noted, "/note", "A note has at most 200 characters.".into());
    if let Some(mark) = &run.mark {
        require(within_words(&mark.name), "/mark/name", "The name of a mark has at most 200 characters.".into());
        let far = mark.distance_m.is_none_or(|far| (0.0..=FAR_LIMIT).contains(&far.get()));
        require(far, "/mark/distance_m", "A mark is 0 to 5000 m from the house.".into());
    }
    if let Some(under) = &run.under {
        let tool = under.tool.as_ref().is_none_or(|tool| !tool.is_empty() && within_words(tool));
        require(tool, "/under/tool", "The tool has a name of at most 200 characters.".into());
        let client = clients::find(&under.client);
        require(client.is_some(), "/under/client", "This test device is not in the catalogue; choose another.".into());
        let band = under.band.is_none_or(|band| client.is_none_or(|client| client.radio(band).is_some()));
        require(band, "/under/band", "The test device does not have this band; choose another.".into());
    }
    let year = "The run was taken in a year that can't be right; look at the clock of the device.";
    require(credible(run.at), "/at", year.into());
    let width = run.width_mhz.is_none_or(|width| WIDTHS.iter().any(|own| (*own - width).get().abs() < 0.5));
    require(width, "/width_mhz", "A channel is 20, 40, 80, 160 or 320 MHz wide.".into());
    let channel = run.channel.is_none_or(|channel| match run.band {
        Some(band) => primaries(band).contains(&channel),
        None => ALL_BANDS.iter().any(|band| primaries(*band).contains(&channel)),
    });
    require(channel, "/channel", "There is no such channel in that band.".into());
    let void = run.void.as_ref().is_none_or(|reason| reason.chars().count() <= 200);
    require(void, "/void", "The reason why a run does not count has at most 200 characters.".into());
    let signal = run.signal_dbm.is_none_or(|signal| (-120.0..=10.0).contains(&signal.get()));
    require(signal, "/signal_dbm", "Signal must be -120 to 10 dBm; it is a negative number.".into());
    let link = run.link_rate_mbps.is_none_or(|link| rate(link.get()));
    require(link, "/link_rate_mbps", format!("Link rate must be 0 to {RATE_LIMIT} Mb/s."));
    let trace = run.trace_mbps.len() <= TRACE_LIMIT && run.trace_mbps.iter().all(|point| rate(point.get()));
    require(trace, "/trace_mbps", format!("A trace has at most {TRACE_LIMIT} points of 0 to {RATE_LIMIT} Mb/s."));
    Faults::check(faults)
}
