//! Kit as a table: how the catalogue ships, and how installers bring their own.
//!
//! One line a type of device, columns by name in any order, those that are not needed left out. Lists are parted by semicolons.

use busy_hen_home::{
    Aerial, Band, BoxItem, Comes, Control, Fault, Faults, Function, Generation, Kit, KitFacts, KitRadio, MainsVolts,
    Mode, Mounting, Pack, PowerLineClass, ReportedUplink, Want, Warmth, Weather,
};
use busy_hen_units::typed::{Decimals, Quantity, Unreadable, read_cell};
use busy_hen_units::{Db, Degrees, MbitPerSec, Megahertz, Metres, SquareMetres, Volts, Watts};

/// Most lines of a table.
const LINES_LIMIT: usize = 200;

/// The columns, in the order they are written.
pub const COLUMNS: [&str; 30] = [
    "key",
    "name",
    "modes",
    "radios",
    "uplink_port_mbps",
    "lan_port_mbps",
    "lan_ports",
    "powered_by_cable",
    "feeding_ports",
    "feeds_w",
    "needs_w",
    "mains_v",
    "blocks_next_outlet",
    "warmth",
    "weather",
    "mounting",
    "aerial",
    "takes_aerials",
    "power_line",
    "steers_with",
    "tells_uplink",
    "price",
    "packs",
    "fee_a_year",
    "warranty_years",
    "claimed_area_m2",
    "control",
    "functions",
    "in_box",
    "known_here",
];
/// Those that every line needs.
const NEEDED: [&str; 5] = ["name", "modes", "uplink_port_mbps", "lan_port_mbps", "radios"];

/// Words of a table with what they say.
type Words<T> = &'static [(&'static str, T)];

const MODES: Words<Mode> = &[
    ("router", Mode::Router),
    ("access_point", Mode::AccessPoint),
    ("mesh_node", Mode::MeshNode),
    ("repeater", Mode::Repeater),
    ("switch", Mode::Switch),
];
const BANDS: Words<Band> = &[("2.4", Band::Ghz2_4), ("5", Band::Ghz5), ("6", Band::Ghz6)];
const GENERATIONS: Words<Generation> =
    &[("n", Generation::N), ("ac", Generation::Ac), ("ax", Generation::Ax), ("be", Generation::Be)];
const WARMTHS: Words<Warmth> = &[("cool", Warmth::Cool), ("warm", Warmth::Warm), ("hot", Warmth::Hot)];
const MOUNTINGS: Words<Mounting> =
    &[("shelf", Mounting::Shelf), ("wall", Mounting::Wall), ("ceiling", Mounting::Ceiling)];
const WEATHERS: Words<Weather> =
    &[("indoors", Weather::Indoors), ("under_roof", Weather::UnderRoof), ("outdoors", Weather::Outdoors)];
const CLASSES: Words<PowerLineClass> = &[
    ("sold200", PowerLineClass::Sold200),
    ("sold500", PowerLineClass::Sold500),
    ("sold1000", PowerLineClass::Sold1000),
    ("sold2000", PowerLineClass::Sold2000),
];
const TOLD: Words<ReportedUplink> = &[
    ("steps", ReportedUplink::Steps),
    ("signal", ReportedUplink::Signal),
    ("signal_and_rate", ReportedUplink::SignalAndRate),
];
const CONTROLS: Words<Control> = &[("simple", Control::Simple), ("full", Control::Full)];
const WANTS: Words<Want> = &[
    ("child_rules", Want::ChildRules),
    ("own_vpn", Want::OwnVpn),
    ("smart_home_hub", Want::SmartHomeHub),
    ("schedules", Want::Schedules),
    ("guest_network", Want::GuestNetwork),
    ("full_control", Want::FullControl),
];

fn word_of<T: PartialEq + Copy>(words: Words<T>, value: T) -> &'static str {
    words.iter().find(|(_, own)| *own == value).map_or("", |(word, _)| word)
}

fn listed<T>(words: Words<T>) -> String {
    words.iter().map(|(word, _)| *word).collect::<Vec<_>>().join(", ")
}

/// One line while it is read: its cells, and what is wrong with them.
struct Line<'a> {
    headings: &'a csv::StringRecord,
    cells: &'a csv::StringRecord,
    number: usize,
    decimals: Decimals,
    faults: Vec<Fault>,
}

impl Line<'_> {
    fn cell(&self, column: &str) -> &str {
        let at = self.headings.iter().position(|own| own.trim().eq_ignore_ascii_case(column));
        as_meant(at.and_then(|at| self.cells.get(at)).unwrap_or_default().trim())
    }

    fn wrong(&mut self, column: &str, message: &str) {
        self.faults.push(Fault {
            pointer: format!("/{}/{column}", self.number),
            message: format!("Line {}, {column}: {message}", self.number),
        });
    }

    fn number(&mut self, column: &str) -> Option<f64> {
        let text = self.cell(column).to_owned();
        if text.is_empty() {
            return None;
        }
        let of = match column {
            "price" | "fee_a_year" => Quantity::Money,
            "uplink_port_mbps" | "lan_port_mbps" => Quantity::Speed,
            "feeds_w" | "needs_w" => Quantity::Power,
            "claimed_area_m2" => Quantity::Area,
            "warranty_years" => Quantity::Years,
            _ => Quantity::Count,
        };
        match read_cell(&text, of, self.decimals, 1.0) {
            Ok(value) => Some(value),
            Err(Unreadable(words)) => {
                self.wrong(column, &words);
                None
            }
        }
    }

    /// A number among words of a cell.
    fn figure(&self, text: &str, of: Quantity) -> Option<f64> {
        read_cell(text, of, self.decimals, 1.0).ok()
    }

    fn count(&mut self, column: &str) -> Option<u8> {
        let read = self.number(column)?;
        if read.fract() == 0.0 && (0.0..=255.0).contains(&read) {
            return Some(read as u8);
        }
        self.wrong(column, &format!("{read} is no count of 0 to 255."));
        None
    }

    fn yes(&mut self, column: &str) -> bool {
        match self.cell(column).to_lowercase().as_str() {
            "yes" | "true" | "1" => true,
            "" | "no" | "false" | "0" => false,
            other => {
                let told = format!("“{other}” is neither yes nor no.");
                self.wrong(column, &told);
                false
            }
        }
    }

    fn word<T: Copy>(&mut self, column: &str, text: &str, words: Words<T>) -> Option<T> {
        let found = words.iter().find(|(word, _)| word.eq_ignore_ascii_case(text)).map(|(_, value)| *value);
        if found.is_none() {
            self.wrong(column, &format!("“{text}” is not known here; use one of {}.", listed(words)));
        }
        found
    }

    fn choice<T: Copy>(&mut self, column: &str, words: Words<T>) -> Option<T> {
        let text = self.cell(column).to_owned();
        if text.is_empty() { None } else { self.word(column, &text, words) }
    }

    fn list(&self, column: &str) -> Vec<String> {
        self.cell(column).split(';').map(str::trim).filter(|part| !part.is_empty()).map(str::to_owned).collect()
    }

    fn modes(&mut self) -> Vec<Mode> {
        let list = self.list("modes");
        list.iter().filter_map(|text| self.word("modes", text, MODES)).collect()
    }

    fn radios(&mut self) -> Vec<KitRadio> {
        let list = self.list("radios");
        list.iter().filter_map(|text| self.radio(text)).collect()
    }

    /// `5 ax 4 160 @36`, and after it `backhaul` or `early`.
    fn radio(&mut self, text: &str) -> Option<KitRadio> {
        const SHAPE: &str =
            "write a radio as band, generation, streams, width in MHz and @channel, such as “5 ax 4 160 @36”.";
        let words: Vec<&str> = text.split_whitespace().collect();
        let [band, generation, streams, width, channel, notes @ ..] = &words[..] else {
            self.wrong("radios", &format!("“{text}” is too short; {SHAPE}"));
            return None;
        };
        let band = self.word("radios", band, BANDS)?;
        let generation = self.word("radios", generation, GENERATIONS)?;
        let channel = channel.strip_prefix('@').and_then(|own| own.parse().ok());
        let (Ok(streams), Some(width), Some(default_channel)) =
            (streams.parse(), self.figure(width, Quantity::Count), channel)
        else {
            self.wrong("radios", &format!("“{text}” can't be read; {SHAPE}"));
            return None;
        };
        if let Some(other) = notes.iter().find(|note| !["backhaul", "early"].contains(note)) {
            self.wrong(
                "radios",
                &format!("“{other}” is not known here; after a radio stands backhaul, early or nothing."),
            );
        }
        Some(KitRadio {
            band,
            generation,
            streams,
            max_width_mhz: Megahertz::new(width),
            default_channel,
            serves: !notes.contains(&"backhaul"),
            short_aggregate: notes.contains(&"early"),
        })
    }

    /// `rods 5 lean 30 towards 90`, or `sector 10 90x30 towards 180`.
    fn aerial(&mut self) -> Aerial {
        let text = self.cell("aerial").to_lowercase();
        let words: Vec<&str> = text.split_whitespace().collect();
        let degrees = |value: f64| Degrees::new(value);
        let after = |name: &str| {
            let at = words.iter().position(|word| *word == name)?;
            self.figure(words.get(at + 1)?, Quantity::Angle)
        };
        let read = match &words[..] {
            [] | ["built", "in"] => Some(Aerial::BuiltIn),
            ["rods", gain, ..] => self.figure(gain, Quantity::Gain).map(|gain| Aerial::Rods {
                gain_dbi: Db::new(gain),
                lean: degrees(after("lean").unwrap_or(0.0)),
                towards: degrees(after("towards").unwrap_or(0.0)),
            }),
            ["sector", gain, beam, ..] => {
                self.figure(gain, Quantity::Gain).zip(beam.split_once('x')).and_then(|(gain, (width, height))| {
                    let angle = |text| self.figure(text, Quantity::Angle);
                    let (width, height) = angle(width).zip(angle(height))?;
                    let towards = degrees(after("towards").unwrap_or(0.0));
                    Some(Aerial::Sector {
                        gain_dbi: Db::new(gain),
                        width: degrees(width),
                        height: degrees(height),
                        towards,
                    })
                })
            }
            _ => None,
        };
        read.unwrap_or_else(|| {
            let told = format!("“{text}” can't be read; write “rods 5 lean 30 towards 90” or “sector 10 90x30 towards 180”, or nothing.");
            self.wrong("aerial", &told);
            Aerial::BuiltIn
        })
    }

    fn volts(&mut self) -> Option<MainsVolts> {
        let text = self.cell("mains_v").to_owned();
        if text.is_empty() {
            return None;
        }
        let (low, high) = text.split_once(['-', '–']).unwrap_or((&text, &text));
        let volts = |text: &str| self.figure(text.trim().trim_end_matches(['V', 'v']), Quantity::Count);
        let read = volts(low)
            .zip(volts(high))
            .map(|(low, high)| MainsVolts { from_v: Volts::new(low), to_v: Volts::new(high) });
        if read.is_none() {
            self.wrong("mains_v", &format!("“{text}” can't be read; write volts as 100-240, or 230."));
        }
        read
    }

    /// `2=110; 3=150`.
    fn packs(&mut self) -> Vec<Pack> {
        let mut packs = Vec::new();
        for text in self.list("packs") {
            let read = text.split_once('=').and_then(|(count, price)| {
                Some(Pack { count: count.trim().parse().ok()?, price: self.figure(price, Quantity::Money)? })
            });
            match read {
                Some(pack) => packs.push(pack),
                None => self.wrong("packs", &format!("“{text}” can't be read; write number and price as 2=110.")),
            }
        }
        packs
    }

    /// `guest_network; child_rules:fee; own_vpn:no`.
    fn functions(&mut self) -> Vec<Function> {
        let mut functions = Vec::new();
        for text in self.list("functions") {
            let (what, how) = text.split_once(':').map_or((text.as_str(), ""), |(what, how)| (what.trim(), how.trim()));
            let comes = match how {
                "" | "yes" => Comes::Included,
                "fee" => Comes::ForAFee,
                "no" => Comes::Lacking,
                other => {
                    self.wrong(
                        "functions",
                        &format!("“{other}” is not known here; after a function stands :fee, :no or nothing."),
                    );
                    continue;
                }
            };
            functions.extend(self.word("functions", what, WANTS).map(|what| Function { what, comes }));
        }
        functions
    }

    /// `injector; cable 1.5; mount; supply`.
    fn in_box(&mut self) -> Vec<BoxItem> {
        let mut items = Vec::new();
        for text in self.list("in_box") {
            let words: Vec<&str> = text.split_whitespace().collect();
            let item = match &words[..] {
                ["injector"] => Some(BoxItem::Injector),
                ["supply"] => Some(BoxItem::Supply),
                ["mount"] => Some(BoxItem::Mount),
                ["cable", length] => {
                    self.figure(length, Quantity::Count).map(|length| BoxItem::Cable { length_m: Metres::new(length) })
                }
                _ => None,
            };
            match item {
                Some(item) => items.push(item),
                None => self.wrong(
                    "in_box",
                    &format!("“{text}” is not known here; use injector, supply, mount, or cable with its metres."),
                ),
            }
        }
        items
    }

    fn port(&mut self, column: &str) -> MbitPerSec {
        MbitPerSec::new(self.number(column).unwrap_or_default())
    }

    fn kit(&mut self) -> Kit {
        for column in NEEDED {
            // A switch has no radios.
            if self.cell(column).is_empty() && column != "radios" {
                self.wrong(column, "this cell is needed.");
            }
        }
        let name = self.cell("name").to_owned();
        let key = self.cell("key").to_owned();
        Kit {
            key: if key.is_empty() { key_of(&name) } else { key },
            name,
            modes: self.modes(),
            radios: self.radios(),
            powered_by_cable: self.yes("powered_by_cable"),
            uplink_port_mbps: self.port("uplink_port_mbps"),
            lan_port_mbps: self.port("lan_port_mbps"),
            aerial: self.aerial(),
            power_line: self.choice("power_line", CLASSES),
            facts: KitFacts {
                lan_ports: self.count("lan_ports"),
                feeding_ports: self.count("feeding_ports").unwrap_or_default(),
                feeds_w: self.number("feeds_w").map(Watts::new),
                needs_w: self.number("needs_w").map(Watts::new),
                mains_v: self.volts(),
                blocks_next_outlet: self.yes("blocks_next_outlet"),
                warmth: self.choice("warmth", WARMTHS),
                weather: self.choice("weather", WEATHERS).unwrap_or_default(),
                mounting: self.choice("mounting", MOUNTINGS).unwrap_or_default(),
                steers_with: Some(self.cell("steers_with").to_owned()).filter(|family| !family.is_empty()),
                tells_uplink: self.choice("tells_uplink", TOLD),
                takes_aerials: self.yes("takes_aerials"),
                price: self.number("price"),
                packs: self.packs(),
                fee_a_year: self.number("fee_a_year"),
                warranty_years: self.number("warranty_years"),
                claimed_area_m2: self.number("claimed_area_m2").map(SquareMetres::new),
                control: self.choice("control", CONTROLS),
                functions: self.functions(),
                in_box: self.in_box(),
                known_here: self.cell("known_here").to_owned(),
            },
        }
    }
}

/// A key made of a name, for a line that gives none.
#[must_use]
pub fn key_of(name: &str) -> String {
    let plain: String =
        name.to_lowercase().chars().map(|letter| if letter.is_alphanumeric() { letter } else { '_' }).collect();
    let words: Vec<&str> = plain.split('_').filter(|word| !word.is_empty()).collect();
    format!("own_{}", words.join("_").chars().take(60).collect::<String>())
}

/// Gives each kit without a key one made of its name, which none of these has.
pub fn name_keys(list: &mut [Kit]) {
    for index in 0..list.len() {
        if list[index].key.is_empty() {
            let plain = key_of(&list[index].name);
            let taken = |key: &str| list.iter().any(|own| own.key == key);
            let numbered = (2..).map(|number| format!("{plain}_{number}"));
            let free = std::iter::once(plain.clone()).chain(numbered).find(|key| !taken(key));
            list[index].key = free.unwrap_or_default();
        }
    }
}

/// Reads a table of kit. What it says of bands, ports and the like is checked with the home it goes to. Thousands and decimals are those that
/// belong to what parts its cells.
///
/// # Errors
/// What can't be read, with line (the heading is line 1) and column.
pub fn read_kit(text: &str) -> Result<Vec<Kit>, Faults> {
    let text = text.trim_start_matches('\u{feff}');
    let heading = text.lines().next().unwrap_or_default();
    // Spreadsheets of countries with a decimal comma part cells by semicolons.
    let (parted_by, decimals) = match heading.contains(';') && !heading.contains(',') {
        true => (b';', Decimals::Comma),
        false => (b',', Decimals::Point),
    };
    let mut reader = csv::ReaderBuilder::new().delimiter(parted_by).flexible(true).from_reader(text.as_bytes());
    let headings = reader.headers().map_err(|error| Faults::one("", format!("This is no table: {error}.")))?.clone();
    let known = |own: &str| COLUMNS.iter().any(|column| column.eq_ignore_ascii_case(own.trim()));
    let mut faults: Vec<Fault> = Vec::new();
    if let Some(other) = headings.iter().find(|own| !known(own)) {
        let told = format!(
            "Line 1: “{}” is no column of a table of kit; its columns are {}.",
            other.trim(),
            COLUMNS.join(", ")
        );
        return Err(Faults::one("/1", told));
    }
    let missing = |needed: &&&str| !headings.iter().any(|own| own.trim().eq_ignore_ascii_case(needed));
    if let Some(needed) = NEEDED.iter().find(missing) {
        return Err(Faults::one("/1", format!("Line 1: the column “{needed}” is missing.")));
    }
    let mut list = Vec::new();
    for record in reader.records() {
        let cells = record.map_err(|error| Faults::one("", format!("The table can't be read on: {error}.")))?;
        if cells.iter().all(|cell| cell.trim().is_empty()) {
            continue;
        }
        if list.len() == LINES_LIMIT {
            return Err(Faults::one("", format!("A table has at most {LINES_LIMIT} lines here; part it.")));
        }
        let number = cells.position().map_or(0, |at| usize::try_from(at.line()).unwrap_or(usize::MAX));
        let mut line = Line { headings: &headings, cells: &cells, number, decimals, faults: Vec::new() };
        list.push(line.kit());
        faults.append(&mut line.faults);
    }
    Faults::check(faults)?;
    Ok(list)
}

/// Writes a table of kit that is read as the same.
///
/// # Errors
/// When a line can't be written; it never is to memory.
pub fn write_kit<'a>(list: impl IntoIterator<Item = &'a Kit>) -> Result<String, csv::Error> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(COLUMNS)?;
    for kit in list {
        writer.write_record(cells(kit))?;
    }
    let bytes = writer.into_inner().map_err(|error| csv::Error::from(error.into_error()))?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

/// Text that a spreadsheet takes as text and not as a formula: with an apostrophe before it.
#[must_use]
pub fn plain(text: &str) -> String {
    if text.starts_with(['=', '+', '-', '@', '\t', '\r']) { format!("'{text}") } else { text.to_owned() }
}

/// The text that was made plain.
fn as_meant(text: &str) -> &str {
    text.strip_prefix('\'').filter(|rest| plain(rest) != *rest).unwrap_or(text)
}

fn cells(kit: &Kit) -> [String; 30] {
    let facts = &kit.facts;
    let yes = |holds: bool| if holds { "yes".to_owned() } else { String::new() };
    let told = |value: Option<f64>| value.map_or_else(String::new, |value| value.to_string());
    let list = |words: Vec<String>| words.join("; ");
    [
        plain(&kit.key),
        plain(&kit.name),
        list(kit.modes.iter().map(|mode| word_of(MODES, *mode).to_owned()).collect()),
        list(kit.radios.iter().map(radio_in_words).collect()),
        kit.uplink_port_mbps.get().to_string(),
        kit.lan_port_mbps.get().to_string(),
        facts.lan_ports.map_or_else(String::new, |ports| ports.to_string()),
        yes(kit.powered_by_cable),
        if facts.feeding_ports == 0 { String::new() } else { facts.feeding_ports.to_string() },
        told(facts.feeds_w.map(Watts::get)),
        told(facts.needs_w.map(Watts::get)),
        facts.mains_v.map_or_else(String::new, |own| format!("{}-{}", own.from_v.get(), own.to_v.get())),
        yes(facts.blocks_next_outlet),
        facts.warmth.map_or_else(String::new, |warmth| word_of(WARMTHS, warmth).into()),
        if facts.weather == Weather::Indoors { String::new() } else { word_of(WEATHERS, facts.weather).into() },
        if facts.mounting == Mounting::Shelf { String::new() } else { word_of(MOUNTINGS, facts.mounting).into() },
        aerial_in_words(&kit.aerial),
        yes(facts.takes_aerials),
        kit.power_line.map_or_else(String::new, |class| word_of(CLASSES, class).into()),
        plain(facts.steers_with.as_deref().unwrap_or_default()),
        facts.tells_uplink.map_or_else(String::new, |told| word_of(TOLD, told).into()),
        told(facts.price),
        list(facts.packs.iter().map(|pack| format!("{}={}", pack.count, pack.price)).collect()),
        told(facts.fee_a_year),
        told(facts.warranty_years),
        told(facts.claimed_area_m2.map(SquareMetres::get)),
        facts.control.map_or_else(String::new, |control| word_of(CONTROLS, control).into()),
        list(facts.functions.iter().map(function_in_words).collect()),
        list(facts.in_box.iter().map(item_in_words).collect()),
        plain(&facts.known_here),
    ]
}

fn radio_in_words(radio: &KitRadio) -> String {
    format!(
        "{} {} {} {} @{}{}{}",
        word_of(BANDS, radio.band),
        word_of(GENERATIONS, radio.generation),
        radio.streams,
        radio.max_width_mhz.get(),
        radio.default_channel,
        if radio.serves { "" } else { " backhaul" },
        if radio.short_aggregate { " early" } else { "" },
    )
}

fn aerial_in_words(aerial: &Aerial) -> String {
    match aerial {
        Aerial::BuiltIn => String::new(),
        Aerial::Rods { gain_dbi, lean, towards } => {
            format!("rods {} lean {} towards {}", gain_dbi.get(), lean.get(), towards.get())
        }
        Aerial::Sector { gain_dbi, width, height, towards } => {
            format!("sector {} {}x{} towards {}", gain_dbi.get(), width.get(), height.get(), towards.get())
        }
    }
}

fn function_in_words(function: &Function) -> String {
    let how = match function.comes {
        Comes::Included => "",
        Comes::ForAFee => ":fee",
        Comes::Lacking => ":no",
    };
    format!("{}{how}", word_of(WANTS, function.what))
}

fn item_in_words(item: &BoxItem) -> String {
    match item {
        BoxItem::Injector => "injector".into(),
        BoxItem::Supply => "supply".into(),
        BoxItem::Mount => "mount".into(),
        BoxItem::Cable { length_m } => format!("cable {}", length_m.get()),
    }
}
