//! The home file: one job as JSON, with all that was measured in it; what the application exports, imports and predicts from.

use std::collections::HashSet;
use std::io::Read;

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use busy_hen_home::{
    AsTested, DeviceNote, Drill, FILE_LIMIT, Fault, Faults, Home, Picture, Round, Run, SetupId, Tick, WatchLog,
};
use busy_hen_job::check::{check, check_picture, check_round, check_run};
use serde::{Deserialize, Serialize};
use serde_path_to_error::Segment;
use utoipa::openapi::{RefOr, Schema};
use utoipa::{PartialSchema, ToSchema};

use crate::picture::kept_jpeg;

/// What every home file says it is.
pub(crate) const FORMAT: &str = "busy-hen home";
/// Version that is written, and the newest that is read. Version 1 did not keep what rounds were taken in;
/// version 2 knew no runs under conditions of their own, and none by a phone; version 3 no purposes of rounds, marks and checks of use; version 4 no pictures; version 5 nothing but rooms in its lines;
/// version 6 no facts of kit, no way of cables, nothing put aside; version 8 nothing of run sheets and drills; version 9 no watches and no notes on devices;
/// version 10 no second line, no passwords kept, no way to newer firmware.
pub(crate) const VERSION: u32 = 11;

/// A home file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HomeFile {
    /// Always `busy-hen home`.
    pub format: String,
    /// Version of the format: 11; files of versions 1 to 10 are read too.
    pub version: u32,
    /// The home.
    pub home: Home,
    /// Rounds of tests with their runs; may be left out.
    #[serde(default)]
    pub rounds: Vec<RoundRecord>,
    /// Pictures of spots and devices; may be left out.
    #[serde(default)]
    pub pictures: Vec<PictureRecord>,
    /// What became of the steps of run sheets; may be left out.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub ticks: Vec<Tick>,
    /// Drills that were run; may be left out.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub drills: Vec<Drill>,
    /// Long watches; may be left out.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub watches: Vec<WatchLog>,
    /// What was noted of devices; may be left out.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub device_notes: Vec<DeviceNote>,
}

/// A picture with what is known of it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PictureRecord {
    /// What is known of it.
    pub picture: Picture,
    /// The picture, a JPEG in base64 (RFC 4648).
    pub jpeg: String,
}

impl PictureRecord {
    /// A record of this picture.
    #[must_use]
    pub fn new(picture: Picture, jpeg: &[u8]) -> Self {
        Self { picture, jpeg: STANDARD.encode(jpeg) }
    }

    /// The picture as it is kept: byte for byte where it is as we keep them, else made anew.
    ///
    /// # Errors
    /// What is wrong with it, its place from the root of the record.
    pub fn jpeg(&self) -> Result<Vec<u8>, Faults> {
        let told = "This is no picture that can be read: a JPEG, in base64.";
        let bytes = STANDARD.decode(&self.jpeg).map_err(|_| Faults::one("/jpeg", told))?;
        kept_jpeg(bytes).map_err(|_| Faults::one("/jpeg", told))
    }
}

/// A round with its runs.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RoundRecord {
    /// The round.
    pub round: Round,
    /// What it was taken in; none in files of version 1, whose rounds are then taken to be of the home as it stands.
    #[serde(default)]
    pub tested: Option<AsTested>,
    /// Its runs, in the order they were taken.
    pub runs: Vec<Run>,
}

impl HomeFile {
    /// A file of this home and these rounds.
    #[must_use]
    pub fn new(home: Home, rounds: Vec<RoundRecord>) -> Self {
        Self {
            format: FORMAT.to_owned(),
            version: VERSION,
            home,
            rounds,
            pictures: Vec::new(),
            ticks: Vec::new(),
            drills: Vec::new(),
            watches: Vec::new(),
            device_notes: Vec::new(),
        }
    }

    /// Rounds of a file of version 1 with the home as it stands in the file, kept at this moment.
    #[must_use]
    pub fn with_all_tested(mut self, now: jiff::Timestamp) -> Self {
        for record in &mut self.rounds {
            let setups = self.home.setups.iter().filter(|setup| setup.id == record.round.setup_id).cloned().collect();
            record.tested.get_or_insert_with(|| AsTested {
                kept_at: now,
                law: None,
                home: Home { setups, passwords: Vec::new(), ..self.home.clone() },
                forecasts: Vec::new(),
            });
        }
        self
    }

    /// The file as text, indented, with a line break at its end.
    ///
    /// # Errors
    /// When a number is not finite; a checked home has none.
    pub fn to_text(&self) -> Result<String, serde_json::Error> {
        Ok(serde_json::to_string_pretty(self)? + "\n")
    }

    /// Reads and checks a home file.
    ///
    /// # Errors
    /// What is wrong, each with a JSON pointer into the file; text that is no JSON has one that names the line.
    pub fn read(text: &[u8]) -> Result<Self, Faults> {
        not_too_large(text.len() as u64)?;
        Self::read_by(&mut serde_json::Deserializer::from_slice(text))
    }

    /// The same from something that need not be in memory, of this length in bytes.
    ///
    /// # Errors
    /// As [`HomeFile::read`].
    pub fn read_from(file: impl Read, bytes: u64) -> Result<Self, Faults> {
        not_too_large(bytes)?;
        Self::read_by(&mut serde_json::Deserializer::from_reader(file))
    }

    fn read_by<'a>(reader: &mut serde_json::Deserializer<impl serde_json::de::Read<'a>>) -> Result<Self, Faults> {
        let file: Self = serde_path_to_error::deserialize(&mut *reader).map_err(|error| not_read(&error))?;
        reader.end().map_err(|error| Faults::one("", format!("After the home something else follows: {error}.")))?;
        file.checked()
    }

    fn checked(self) -> Result<Self, Faults> {
        if self.format != FORMAT {
            return Err(Faults::one(
                "/format",
                format!("The file says “{}”; a home file says “{FORMAT}”.", self.format),
            ));
        }
        if self.version == 0 || self.version > VERSION {
            let message =
                format!("This is version {} of the format; {VERSION} is the newest known here.", self.version);
            return Err(Faults::one("/version", message));
        }
        check(&self.home).map_err(|faults| within("/home", &faults))?;
        let (mut seen, mut runs) = (HashSet::new(), HashSet::new());
        for (r, record) in self.rounds.iter().enumerate() {
            if !seen.insert(record.round.id) {
                return Err(Faults::one(format!("/rounds/{r}/round/id"), "This round stands in the file twice."));
            }
            let tested = match &record.tested {
                Some(tested) => {
                    let at = format!("/rounds/{r}/tested/home");
                    check(&tested.home).map_err(|faults| within(&at, &faults))?;
                    &tested.home
                }
                None if self.version > 1 => {
                    let message = "What the round was taken in is missing; without it its readings mean nothing.";
                    return Err(Faults::one(format!("/rounds/{r}/tested"), message));
                }
                None => &self.home,
            };
            let at = format!("/rounds/{r}/round");
            check_round(tested, &record.round).map_err(|faults| within(&at, &faults))?;
            for (i, run) in record.runs.iter().enumerate() {
                let at = format!("/rounds/{r}/runs/{i}");
                if !runs.insert(run.id) {
                    return Err(Faults::one(format!("{at}/id"), "This run stands in the file twice."));
                }
                if run.round_id != record.round.id {
                    return Err(Faults::one(format!("{at}/round_id"), "The run belongs to another round."));
                }
                check_run(tested, &record.round, run).map_err(|faults| within(&at, &faults))?;
            }
        }
        let mut seen = HashSet::new();
        for (p, record) in self.pictures.iter().enumerate() {
            if !seen.insert(record.picture.id) {
                return Err(Faults::one(format!("/pictures/{p}/picture/id"), "This picture stands in the file twice."));
            }
            let at = format!("/pictures/{p}");
            check_picture(&record.picture).map_err(|faults| within(&format!("{at}/picture"), &faults))?;
            record.jpeg().map_err(|faults| within(&at, &faults))?;
        }
        let there = |at: &str, id: SetupId| match self.home.setup(id) {
            Some(_) => Ok(()),
            None => Err(Faults::one(format!("{at}/setup_id"), "This is of a setup that is not in the file.")),
        };
        for (t, tick) in self.ticks.iter().enumerate() {
            let at = format!("/ticks/{t}");
            there(&at, tick.setup_id)?;
            tick.check().map_err(|faults| within(&at, &faults))?;
        }
        for (d, drill) in self.drills.iter().enumerate() {
            let at = format!("/drills/{d}");
            there(&at, drill.setup_id)?;
            drill.check().map_err(|faults| within(&at, &faults))?;
        }
        let mut seen = HashSet::new();
        for (w, log) in self.watches.iter().enumerate() {
            let at = format!("/watches/{w}");
            if !seen.insert(log.head.id) {
                return Err(Faults::one(format!("{at}/head/id"), "This watch stands in the file twice."));
            }
            log.check().map_err(|faults| within(&at, &faults))?;
        }
        for (n, note) in self.device_notes.iter().enumerate() {
            let at = format!("/device_notes/{n}");
            there(&at, note.setup_id)?;
            note.check().map_err(|faults| within(&at, &faults))?;
        }
        Ok(self)
    }
}

/// Refuses a home file of so many bytes.
///
/// # Errors
/// That it is too large.
pub fn not_too_large(bytes: u64) -> Result<(), Faults> {
    let told = || Faults::one("", format!("The file is larger than {} MB; it can't be a home file.", FILE_LIMIT >> 20));
    if bytes > FILE_LIMIT { Err(told()) } else { Ok(()) }
}

/// The same faults, told from the root of the file.
fn within(at: &str, faults: &Faults) -> Faults {
    let list = faults.list().iter();
    let list = list.map(|fault| Fault { pointer: format!("{at}{}", fault.pointer), message: fault.message.clone() });
    Faults::check(list.collect()).err().unwrap_or_else(|| Faults::one(at, faults.to_string()))
}

fn not_read(error: &serde_path_to_error::Error<serde_json::Error>) -> Faults {
    let pointer: String = error
        .path()
        .iter()
        .filter_map(|segment| match segment {
            Segment::Seq { index } => Some(format!("/{index}")),
            Segment::Map { key } => Some(format!("/{}", key.replace('~', "~0").replace('/', "~1"))),
            Segment::Enum { .. } | Segment::Unknown => None,
        })
        .collect();
    let inner = error.inner();
    let message = match inner.classify() {
        serde_json::error::Category::Data => {
            format!("This does not fit there: {inner}.")
        }
        _ => format!("The file is not JSON from here on: {inner}."),
    };
    Faults::one(pointer, message)
}

/// The JSON Schema of the home file (draft 2020-12), made from the types themselves.
///
/// # Errors
/// When the schema can't be written as JSON; it always can.
pub fn home_file_schema() -> Result<serde_json::Value, serde_json::Error> {
    let mut parts: Vec<(String, RefOr<Schema>)> = Vec::new();
    HomeFile::schemas(&mut parts);
    let mut definitions = serde_json::Map::new();
    for (name, schema) in parts {
        definitions.insert(name, serde_json::to_value(schema)?);
    }
    let mut whole = serde_json::to_value(HomeFile::schema())?;
    if let Some(object) = whole.as_object_mut() {
        object.insert("$schema".into(), "https://json-schema.org/draft/2020-12/schema".into());
        object.insert("title".into(), "Busy Hen home file".into());
        object.insert("$defs".into(), definitions.into());
    }
    point_to_definitions(&mut whole);
    Ok(whole)
}

/// Turns the references of an API description into those of a schema that stands alone.
fn point_to_definitions(value: &mut serde_json::Value) {
    match value {
        serde_json::Value::Object(object) => {
            for (key, inner) in object.iter_mut() {
                match inner {
                    serde_json::Value::String(text) if key == "$ref" => {
                        *text = text.replace("#/components/schemas/", "#/$defs/");
                    }
                    _ => point_to_definitions(inner),
                }
            }
        }
        serde_json::Value::Array(list) => list.iter_mut().for_each(point_to_definitions),
        _ => {}
    }
}
