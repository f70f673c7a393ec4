//! All readings of a home as CSV (RFC 4180), one run a line, units in the headings.

use busy_hen_catalogue::table::plain;
use busy_hen_home::{Mark, Outcome, Round, Run};
use busy_hen_survey::readings::words::in_words;
use serde::Serialize;

/// A run with what it belongs to, in words.
#[derive(Debug, Clone, Copy)]
pub struct Line<'a> {
    /// Letter and name of the setup.
    pub setup: &'a str,
    /// The room.
    pub room: &'a str,
    /// The spot; empty for the only one of a room.
    pub spot: &'a str,
    /// Name of the serving device; empty when not known.
    pub serving: &'a str,
    /// The round.
    pub round: &'a Round,
    /// The run.
    pub run: &'a Run,
}

/// Writes the lines with a heading.
///
/// Text that a spreadsheet would take for a formula gets a leading apostrophe.
///
/// # Errors
/// When a line can't be written; it never is to memory.
pub fn readings_csv(lines: &[Line<'_>]) -> Result<String, csv::Error> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    for line in lines {
        writer.serialize(row(line))?;
    }
    if lines.is_empty() {
        writer.write_record(HEADING)?;
    }
    let bytes = writer.into_inner().map_err(|error| csv::Error::from(error.into_error()))?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

const HEADING: [&str; 31] = [
    "at",
    "setup",
    "room",
    "spot",
    "kind",
    "client",
    "band_asked_ghz",
    "doors",
    "situation",
    "source",
    "carried_by",
    "counts",
    "void_reason",
    "serving",
    "band_ghz",
    "channel",
    "signal_dbm",
    "link_rate_mbps",
    "down_mbps",
    "up_mbps",
    "idle_ms",
    "loaded_ms",
    "jitter_ms",
    "loss_percent",
    "purpose",
    "tool",
    "mark",
    "distance_m",
    "kit_status",
    "note",
    "check",
];

/// What the columns hold: a table schema of the Frictionless specifications (Table Schema, version 1), as JSON.
pub const READINGS_TABLE_SCHEMA: &str = include_str!("readings-table-schema.json");

#[derive(Serialize)]
struct Row {
    at: String,
    setup: String,
    room: String,
    spot: String,
    kind: busy_hen_home::TestKind,
    client: String,
    band_asked_ghz: Option<busy_hen_home::Band>,
    doors: busy_hen_home::Doors,
    situation: busy_hen_home::Situation,
    source: busy_hen_home::Source,
    carried_by: busy_hen_home::CarriedBy,
    counts: bool,
    void_reason: String,
    serving: String,
    band_ghz: Option<busy_hen_home::Band>,
    channel: Option<u16>,
    signal_dbm: Option<f64>,
    link_rate_mbps: Option<f64>,
    down_mbps: Option<f64>,
    up_mbps: Option<f64>,
    idle_ms: Option<f64>,
    loaded_ms: Option<f64>,
    jitter_ms: Option<f64>,
    loss_percent: Option<f64>,
    purpose: busy_hen_home::Purpose,
    tool: String,
    mark: String,
    distance_m: Option<f64>,
    kit_status: Option<busy_hen_home::KitStatus>,
    note: String,
    check: String,
}

fn row(line: &Line<'_>) -> Row {
    let Line { round, run, .. } = *line;
    let under = run.under(round);
    let mut row = Row {
        at: run.at.to_string(),
        setup: plain(line.setup),
        room: plain(line.room),
        spot: plain(line.spot),
        kind: under.kind,
        client: under.client.clone(),
        band_asked_ghz: under.band,
        doors: under.doors,
        situation: under.situation,
        source: run.source,
        carried_by: run.carried_by,
        counts: run.counts(),
        void_reason: plain(run.void.as_deref().unwrap_or_default()),
        serving: plain(line.serving),
        band_ghz: run.band,
        channel: run.channel,
        signal_dbm: run.signal_dbm.map(|signal| signal.get()),
        link_rate_mbps: run.link_rate_mbps.map(|rate| rate.get()),
        down_mbps: None,
        up_mbps: None,
        idle_ms: None,
        loaded_ms: None,
        jitter_ms: None,
        loss_percent: None,
        purpose: round.purpose,
        tool: plain(under.tool.as_deref().unwrap_or_default()),
        mark: plain(&run.mark.as_ref().map(mark_words).unwrap_or_default()),
        distance_m: run.mark.as_ref().and_then(|mark| mark.distance_m).map(|far| far.get()),
        kit_status: run.kit_status,
        note: plain(run.note.as_deref().unwrap_or_default()),
        check: in_words(&run.outcome).unwrap_or_default(),
    };
    if let Outcome::Measured { down_mbps, up_mbps, idle_ms, loaded_ms, jitter_ms, loss_percent } = &run.outcome {
        row.down_mbps = Some(down_mbps.get());
        row.up_mbps = Some(up_mbps.get());
        row.idle_ms = idle_ms.map(|ms| ms.get());
        row.loaded_ms = loaded_ms.map(|ms| ms.get());
        row.jitter_ms = jitter_ms.map(|ms| ms.get());
        row.loss_percent = *loss_percent;
    }
    row
}

fn mark_words(mark: &Mark) -> String {
    let parts =
        [Some(mark.name.as_str()), mark.beside_node.then_some("beside the node"), mark.returning.then_some("way back")];
    parts.into_iter().flatten().filter(|part| !part.is_empty()).collect::<Vec<_>>().join(", ")
}

#[cfg(test)]
mod tests {
    use super::*;
    use busy_hen_home::{SetupId, SpotId};
    use busy_hen_testkit::runs;

    fn csv(room: &str, change: impl FnOnce(&mut Run)) -> Vec<Vec<String>> {
        let round = runs::round("r", SetupId::named("A"), vec![SpotId::named("s")]);
        let mut run = runs::run(&round, SpotId::named("s"), 80.0);
        change(&mut run);
        let line = Line { setup: "A as found", room, spot: "", serving: "Router", round: &round, run: &run };
        let text = readings_csv(&[line]).unwrap();
        csv::ReaderBuilder::new()
            .has_headers(false)
            .from_reader(text.as_bytes())
            .records()
            .map(|record| record.unwrap().iter().map(str::to_owned).collect())
            .collect()
    }

    fn cell(table: &[Vec<String>], heading: &str) -> String {
        let column = table[0].iter().position(|own| own == heading).unwrap();
        table[1][column].clone()
    }

    #[test]
    fn a_run_is_a_line_with_its_conditions() {
        let table = csv("Study, north", |_| {});
        assert_eq!(table[0], HEADING);
        assert_eq!(cell(&table, "room"), "Study, north", "a comma is quoted");
        assert_eq!(cell(&table, "down_mbps"), "80.0");
        assert_eq!(cell(&table, "kind"), "internet");
    }

    #[test]
    fn a_lost_connection_has_no_figures_and_a_formula_is_text() {
        let table = csv("=1+1", |run| run.outcome = Outcome::NoConnection);
        assert_eq!(cell(&table, "down_mbps"), "");
        assert_eq!(cell(&table, "room"), "'=1+1");
    }

    #[test]
    fn the_schema_beside_the_table_names_its_columns_in_order() {
        let schema: serde_json::Value = serde_json::from_str(READINGS_TABLE_SCHEMA).unwrap();
        let names: Vec<&str> =
            schema["fields"].as_array().unwrap().iter().map(|field| field["name"].as_str().unwrap()).collect();
        assert_eq!(names, HEADING);
    }

    #[test]
    fn without_runs_there_is_still_a_heading() {
        assert_eq!(readings_csv(&[]).unwrap().trim(), HEADING.join(","));
    }
}
