//! Predictions of a home file on the command line: no server, no database.

use std::fmt::Write as _;
use std::path::PathBuf;
use std::sync::Arc;

use busy_hen_catalogue::clients;
use busy_hen_floorplan::{LineFault, Plan, Point};
use busy_hen_formats::{HomeFile, RoundRecord};
use busy_hen_home::{Band, DeviceId, Doors, Home, Setup, Situation, TestKind, local_day};
use busy_hen_job::cautions::{Caution, cautions};
use busy_hen_job::findings::{Finding, findings};
use busy_hen_predict::ledger::{LedgerRow, Measured};
use busy_hen_predict::path::Chain;
use busy_hen_predict::path::call::CallQuality;
use busy_hen_predict::path::direction::Direction;
use busy_hen_predict::{Knowledge, Model, Prediction, Question, Range, Served};
use busy_hen_radio::propagation::PropagationModel;
use busy_hen_radio::propagation::published::ComparedModel;
use busy_hen_survey::calibration::calibrate;
use busy_hen_survey::calibration::evidence::Taken;
use busy_hen_units::{Dbm, MbitPerSec, Millis};
use clap::{Args, ValueEnum};
use jiff::civil::Date;
use serde::Serialize;

/// What to predict, and of what.
#[derive(Debug, Args)]
pub struct Options {
    /// Home file, as the workbench exports it; `-` reads from standard input.
    #[arg(value_name = "HOME.json")]
    file: PathBuf,
    /// Letter of the setup; the first when left out.
    #[arg(long, value_name = "LETTER")]
    setup: Option<String>,
    /// A place to explain: metres east and south of the origin, and the level's name or number from the lowest, 0.
    #[arg(long, value_name = "X,Y,LEVEL", conflicts_with = "rooms", allow_hyphen_values = true)]
    at: Option<String>,
    /// All rooms, worst first; this is what happens when no place is named.
    #[arg(long)]
    rooms: bool,
    /// With a place: the loss from each device by the product's law and by published ones.
    #[arg(long, requires = "at")]
    laws: bool,
    /// Print JSON.
    #[arg(long)]
    json: bool,
    /// Device that people hold, by its key in the catalogue.
    #[arg(long, value_name = "KEY", default_value = "phone_ax")]
    client: String,
    /// Hold the device to one band, GHz.
    #[arg(long, value_name = "GHZ")]
    band: Option<BandChoice>,
    /// How far the test reaches.
    #[arg(long, value_name = "REACH", default_value = "internet")]
    reach: Reach,
    /// How the doors stand.
    #[arg(long, value_name = "DOORS", default_value = "as-left")]
    doors: DoorChoice,
    /// While the whole family is busy.
    #[arg(long)]
    busy: bool,
    /// Day that decides the internet plan in force; today when left out.
    #[arg(long, value_name = "DATE")]
    day: Option<Date>,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
enum BandChoice {
    #[value(name = "2.4")]
    Two,
    #[value(name = "5")]
    Five,
    #[value(name = "6")]
    Six,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
enum Reach {
    /// To a far end beyond the line.
    Internet,
    /// The same, carried by the second line.
    SecondLine,
    /// To a machine wired to the router.
    Local,
}

#[derive(Debug, Clone, Copy, ValueEnum)]
enum DoorChoice {
    AsLeft,
    Open,
    Shut,
}

/// What is printed for all rooms.
#[derive(Debug, Serialize)]
struct Rooms {
    setup: String,
    rooms: Vec<LedgerRow>,
    /// Typed lines that are wrong: their rooms are not part of the prediction.
    faults: Vec<LineFault>,
    cautions: Vec<Caution>,
    /// What is wrong with the setup, and what mending it gives.
    findings: Vec<Finding>,
}

/// What is printed for a place.
#[derive(Debug, Serialize)]
struct Place {
    setup: String,
    room: Option<String>,
    prediction: Prediction,
    /// Whether the device goes by cable.
    by_cable: bool,
    chain: Option<Chain>,
    /// Name of the device that serves.
    served_by: Option<String>,
    /// Signal and link rate there, each with its likely range.
    radio: Option<RadioRange>,
    /// Hops behind it, from the router on.
    hops: Vec<HopRange>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    losses_db: Vec<LossRow>,
    /// Typed lines that are wrong: their rooms are not part of the prediction.
    faults: Vec<LineFault>,
}

/// The radio link to a client: 10 %, 50 % and 90 % of places like this one.
#[derive(Debug, Serialize)]
struct RadioRange {
    signal_dbm: [f64; 3],
    link_rate_mbps: [f64; 3],
}

/// A hop between devices: 10 %, 50 % and 90 % of houses like this one.
#[derive(Debug, Serialize)]
struct HopRange {
    to: String,
    down_mbps: [f64; 3],
    up_mbps: [f64; 3],
}

/// Losses from one device by every law.
#[derive(Debug, Serialize)]
struct LossRow {
    device: String,
    band: Band,
    by_law: Vec<(&'static str, f64)>,
}

/// Predicts what the options ask; the text to print.
///
/// # Errors
/// One sentence that names what is wrong and where.
pub fn predict(options: &Options) -> Result<String, String> {
    let file = read(options)?;
    let home = file.home;
    let setup = choose(&home, options.setup.as_deref())?;
    let question = question(options)?;
    let kept = if home.tables_alone { Knowledge::default() } else { calibration_of(&home, &file.rounds) };
    let plan = kept.plan(&home);
    let model = Model::new(&home, setup, &plan, question, &kept);
    let name = format!("{} {}", setup.letter, setup.name);
    let Some(at) = &options.at else {
        let rooms = model.ledger(&Measured::default());
        let faults = plan.faults.clone();
        let (cautions, findings) = (cautions(&home, setup, &plan), findings(&home, setup, &plan, question, &kept));
        let found = Rooms { setup: name, rooms, faults, cautions, findings };
        return if options.json { json(&found) } else { Ok(rooms_table(&found, &home, setup)) };
    };
    let (level, x, y) = place(at, &plan)?;
    let point = plan.in_hand(level, x, y);
    let room = plan.room_at(level, x, y);
    let room_id = room.map(|room| room.id);
    let prediction = model.at(point, room_id);
    let served = prediction.served;
    let found = Place {
        setup: name,
        room: room.map(|room| room.name.clone()),
        prediction: prediction.clone(),
        by_cable: question.client.port_mbps.is_some(),
        chain: model.chain(point, room_id),
        served_by: served.and_then(|served| setup.device(served.device)).map(|device| device.name.clone()),
        radio: served.map(radio_range),
        hops: served.map(|served| hop_ranges(&model, served.device)).unwrap_or_default(),
        faults: plan.faults.clone(),
        losses_db: if options.laws { losses(&model, &plan, question.doors, point) } else { Vec::new() },
    };
    if options.json { json(&found) } else { Ok(place_text(&found, &home)) }
}

/// What the readings of a file teach of its home.
fn calibration_of(home: &Home, rounds: &[RoundRecord]) -> Knowledge {
    let taken: Vec<Taken<'_>> = rounds
        .iter()
        .map(|own| Taken {
            round: &own.round,
            home: own.tested.as_ref().map_or(home, |tested| &tested.home),
            runs: &own.runs,
        })
        .collect();
    let kept = Knowledge::default();
    kept.having(calibrate(&taken, &kept).map(Arc::new))
}

fn read(options: &Options) -> Result<HomeFile, String> {
    let shown = options.file.display();
    let read = if options.file.as_os_str() == "-" {
        let mut bytes = Vec::new();
        std::io::Read::read_to_end(&mut std::io::stdin(), &mut bytes).map(|_| bytes)
    } else {
        std::fs::read(&options.file)
    };
    let bytes = read.map_err(|error| format!("{shown} can't be read: {error}."))?;
    let file = HomeFile::read(&bytes).map_err(|faults| {
        let first = &faults.list()[0];
        let place = if first.pointer.is_empty() { "the top" } else { first.pointer.as_str() };
        let more = match faults.list().len() - 1 {
            0 => String::new(),
            more => format!(" ({more} more like it follow.)"),
        };
        format!("{shown} at {place}: {}{more}", first.message)
    })?;
    Ok(file)
}

fn choose<'a>(home: &'a Home, letter: Option<&str>) -> Result<&'a Setup, String> {
    let letters: Vec<&str> = home.setups.iter().map(|setup| setup.letter.as_str()).collect();
    let there = if letters.is_empty() { "none".to_owned() } else { letters.join(", ") };
    match letter {
        None => home.setups.first().ok_or_else(|| "This home has no setup yet; draw one first.".to_owned()),
        Some(letter) => home
            .setups
            .iter()
            .find(|setup| setup.letter.eq_ignore_ascii_case(letter))
            .ok_or_else(|| format!("This home has no setup {letter}; it has {there}.")),
    }
}

fn question(options: &Options) -> Result<Question, String> {
    let keys = || clients::all().iter().map(|client| client.key).collect::<Vec<_>>().join(", ");
    let client = clients::find(&options.client)
        .ok_or_else(|| format!("There is no device {}; choose one of {}.", options.client, keys()))?;
    let band = options.band.map(|band| match band {
        BandChoice::Two => Band::Ghz2_4,
        BandChoice::Five => Band::Ghz5,
        BandChoice::Six => Band::Ghz6,
    });
    if let Some(band) = band.filter(|band| !client.has(*band)) {
        let own: Vec<String> = client.bands.iter().map(|own| own.band.to_string()).collect();
        if client.port_mbps.is_some() {
            return Err(format!("A {} goes by cable and by no band; leave --band out.", client.name));
        }
        return Err(format!("A {} has no {band} radio; it has {}.", client.name, own.join(" and ")));
    }
    Ok(Question {
        client,
        band,
        situation: if options.busy { Situation::BusyEvening } else { Situation::Alone },
        doors: match options.doors {
            DoorChoice::AsLeft => Doors::AsLeft,
            DoorChoice::Open => Doors::Open,
            DoorChoice::Shut => Doors::Shut,
        },
        reach: match options.reach {
            Reach::Internet => TestKind::Internet,
            Reach::SecondLine => TestKind::SecondLine,
            Reach::Local => TestKind::Local,
        },
        day: options.day.unwrap_or_else(|| local_day(jiff::Timestamp::now())),
    })
}

fn place(text: &str, plan: &Plan) -> Result<(usize, f64, f64), String> {
    let help = || format!("“{text}” is no place; write metres east, metres south and a level, as in 2.5,4,Ground.");
    let parts: Vec<&str> = text.splitn(3, ',').map(str::trim).collect();
    let [x, y, level] = parts[..] else { return Err(help()) };
    let number = |text: &str| text.parse::<f64>().ok().filter(|number| number.is_finite()).ok_or_else(help);
    let by_name = plan.levels.iter().position(|own| own.name.eq_ignore_ascii_case(level));
    let by_number = level.parse::<usize>().ok().filter(|index| *index < plan.levels.len());
    let level = by_name.or(by_number).ok_or_else(|| {
        let names: Vec<&str> = plan.levels.iter().map(|level| level.name.as_str()).collect();
        format!("There is no level {level}; this house has {}.", names.join(", "))
    })?;
    Ok((level, number(x)?, number(y)?))
}

fn radio_range(served: Served) -> RadioRange {
    RadioRange {
        signal_dbm: [served.poor_signal_dbm, served.signal_dbm, served.good_signal_dbm].map(Dbm::get),
        link_rate_mbps: [served.poor_link_rate_mbps, served.link_rate_mbps, served.good_link_rate_mbps]
            .map(MbitPerSec::get),
    }
}

/// What each hop from the router to a device carries.
fn hop_ranges(model: &Model<'_>, device: DeviceId) -> Vec<HopRange> {
    let network = model.network();
    let access = model.evaluator.accesses.iter().find(|access| network.nodes[access.node].id == device);
    let hops = access.map(|access| access.hops.clone()).unwrap_or_default();
    let ends = |range: Range| [range.poor, range.middle, range.good].map(MbitPerSec::get);
    hops.into_iter()
        .map(|hop| HopRange {
            to: network.nodes[hop].name.clone(),
            down_mbps: ends(model.evaluator.hop_range(hop, Direction::Down)),
            up_mbps: ends(model.evaluator.hop_range(hop, Direction::Up)),
        })
        .collect()
}

fn losses(model: &Model<'_>, plan: &Plan, doors: Doors, at: Point) -> Vec<LossRow> {
    let waves = PropagationModel::new(plan, doors);
    let radios = model.network().nodes.iter().flat_map(|node| node.radios.iter().map(move |radio| (node, radio)));
    radios
        .filter(|(_, radio)| radio.on && radio.serves)
        .map(|(node, radio)| {
            let waves = waves.at(radio.block.centre);
            let loss = |law: ComparedModel| (law.loss(plan, &waves, node.at, at).get() * 10.0).round() / 10.0;
            let by_law = ComparedModel::ALL.iter().map(|(law, key, _)| (*key, loss(*law))).collect();
            LossRow { device: node.name.clone(), band: radio.block.band, by_law }
        })
        .collect()
}

fn json(found: &impl Serialize) -> Result<String, String> {
    serde_json::to_string_pretty(found).map(|text| text + "\n").map_err(|error| error.to_string())
}

/// A speed without its unit, with as many digits as it deserves.
fn bare(rate: MbitPerSec) -> String {
    if rate.get() < 10.0 { format!("{:.1}", rate.get()) } else { format!("{:.0}", rate.get()) }
}

fn call(quality: Option<CallQuality>) -> String {
    quality.map_or_else(|| "-".to_owned(), |quality| format!("{:.1}", quality.opinion))
}

fn range(range: &Range) -> String {
    format!("{} ({}–{})", bare(range.middle), bare(range.poor), bare(range.good))
}

fn rooms_table(found: &Rooms, home: &Home, setup: &Setup) -> String {
    let header =
        ["room", "down Mb/s (10–90 %)", "up Mb/s (10–90 %)", "ms", "loaded", "call", "served by", "limited by"];
    let mut rows: Vec<[String; 8]> = vec![header.map(str::to_owned)];
    for row in &found.rooms {
        let got = &row.predicted;
        let reached = got.served.is_some() || got.plugged_into.is_some();
        let delay = |delay: Millis| if reached { format!("{:.0}", delay.get()) } else { "-".to_owned() };
        let name = |device: DeviceId| setup.device(device).map_or("?", |device| device.name.as_str());
        let served = match (&got.served, got.plugged_into) {
            (Some(served), _) => format!("{}, {}, {:.0}", name(served.device), served.band, served.signal_dbm),
            (None, Some(device)) => format!("{}, by cable", name(device)),
            (None, None) if row.no_port => "no port here".to_owned(),
            (None, None) => "nothing".to_owned(),
        };
        rows.push([
            row.name.clone(),
            range(&got.down),
            range(&got.up),
            delay(got.latency_ms),
            delay(got.loaded_ms),
            call(got.call),
            served,
            row.limited_by.clone().unwrap_or_default(),
        ]);
    }
    let widths: Vec<usize> =
        (0..header.len()).map(|column| rows.iter().map(|row| row[column].chars().count()).max().unwrap_or(0)).collect();
    let mut text = format!("{}, setup {}\n\n", home.name, found.setup);
    for row in rows {
        let line: Vec<String> = row.iter().zip(&widths).map(|(cell, width)| format!("{cell:width$}")).collect();
        let _ = writeln!(text, "{}", line.join("  ").trim_end());
    }
    text.push_str(&fault_lines(&found.faults, home));
    for own in &found.findings {
        let mended = own.fix.as_ref().zip(own.gain.as_ref()).map(|(fix, gain)| format!(" To mend it: {fix}; {gain}."));
        let _ = writeln!(text, "\n- {}{}", own.what, mended.unwrap_or_default());
    }
    for caution in &found.cautions {
        let _ = writeln!(text, "\n! {}", caution.message);
    }
    text + "\nEstimates, not certification.\n"
}

fn fault_lines(faults: &[LineFault], home: &Home) -> String {
    let told = |fault: &LineFault| {
        let level = home.house.level(fault.level_id).map_or("?", |level| level.name.as_str());
        format!("\n! {level}, line {}: {} That room is left out.\n", fault.line + 1, fault.wrong.message)
    };
    faults.iter().map(told).collect()
}

fn place_text(found: &Place, home: &Home) -> String {
    let got = &found.prediction;
    let room = found.room.as_deref().unwrap_or("between rooms");
    let mut text = format!("{room}, setup {}\n\n", found.setup);
    let _ = writeln!(text, "down   {} Mb/s\nup     {} Mb/s", range(&got.down), range(&got.up));
    let _ = writeln!(
        text,
        "delay  {:.0}, {:.0} under load, jitter {:.1}\ncall   {} of 4.5, {} under load\n",
        got.latency_ms,
        got.loaded_ms,
        got.jitter_ms,
        call(got.call),
        call(got.loaded_call)
    );
    if let (Some(name), Some(radio)) = (&found.served_by, &found.radio) {
        let [poor, middle, good] = radio.signal_dbm;
        let [slow, rate, fast] = radio.link_rate_mbps;
        let _ = writeln!(
            text,
            "served by {name}: {middle:.0} ({poor:.0} to {good:.0}) dBm, link rate {rate:.0} ({slow:.0}–{fast:.0}) Mb/s"
        );
        for hop in &found.hops {
            let [poor, middle, good] = hop.down_mbps;
            let _ = writeln!(text, "hop to {}: {middle:.0} ({poor:.0}–{good:.0}) Mb/s down", hop.to);
        }
        text.push('\n');
    }
    match &found.chain {
        None if found.by_cable => text.push_str("No device with a port stands in this room.\n"),
        None => text.push_str("No radio of the setup holds here.\n"),
        Some(chain) => {
            for (index, link) in chain.links.iter().enumerate() {
                let mark = if Some(index) == chain.limiting { ">" } else { " " };
                let carries = link.down_mbps.map_or_else(|| "-".to_owned(), bare);
                let mended = bare(link.mended_down_mbps);
                let _ = writeln!(
                    text,
                    "{mark} {:28} {carries:>6} Mb/s  {mended:>6} if mended  {}",
                    link.label, link.detail
                );
            }
            let _ = writeln!(text, "\n{}", chain.in_words);
        }
    }
    for row in &found.losses_db {
        let laws: Vec<String> = row.by_law.iter().map(|(law, loss)| format!("{law} {loss:.1}")).collect();
        let _ = writeln!(text, "loss from {} in {}, dB: {}", row.device, row.band, laws.join(", "));
    }
    text.push_str(&fault_lines(&found.faults, home));
    text + "\nEstimates, not certification.\n"
}
