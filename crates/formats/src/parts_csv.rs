//! What a setup takes as CSV (RFC 4180): parts with prices, cables with their lengths and holes, ports with what goes to them.

use busy_hen_catalogue::table::plain;
use busy_hen_home::LengthUnit;
use busy_hen_job::parts::Parts;

const HEADING: [&str; 6] = ["kind", "what", "count", "unit", "price", "for"];

/// Writes the list with a heading, lengths in this unit.
///
/// # Errors
/// When a line can't be written; it never is to memory.
pub fn parts_csv(parts: &Parts, units: LengthUnit) -> Result<String, csv::Error> {
    let mut writer = csv::Writer::from_writer(Vec::new());
    writer.write_record(HEADING)?;
    let mut line = |cells: [&str; 6]| writer.write_record(cells.map(plain));
    for own in &parts.lines {
        let price = own.price.map_or_else(String::new, |price| format!("{price:.2}"));
        line(["part", &own.what, &own.count.to_string(), &own.unit, &price, &own.for_what])?;
    }
    if let Some(total) = parts.total {
        line(["total", "", "", "", &format!("{total:.2}"), ""])?;
    }
    for run in &parts.cables {
        let what = format!("{} from {} to {}", run.class_name, run.from_name, run.name);
        let length = run.route.as_ref().map_or_else(String::new, |way| match units {
            LengthUnit::Metre => way.length_m.get().to_string(),
            LengthUnit::Foot => way.length_m.feet().ceil().to_string(),
        });
        let unit = if units == LengthUnit::Foot { "ft" } else { "m" };
        let told = if run.cannot.is_empty() { &run.told } else { &run.cannot };
        line([if run.loose { "loose cable" } else { "cable" }, &what, &length, unit, "", told])?;
        for hole in run.route.iter().flat_map(|way| &way.holes) {
            line(["hole", &hole.what, "1", "piece", "", &run.name])?;
        }
    }
    for map in &parts.ports {
        for used in &map.used {
            let feeds = if used.feeds { "fed by it" } else { "" };
            line(["port", &format!("{} port {}", map.name, used.port), "", "", feeds, &used.name])?;
        }
    }
    let bytes = writer.into_inner().map_err(|error| csv::Error::from(error.into_error()))?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

#[cfg(test)]
mod tests {
    use super::*;
    use busy_hen_floorplan::Plan;

    #[test]
    fn parts_cables_and_ports_are_lines_of_one_table() {
        let home = busy_hen_demo::canal_terrace();
        let list = busy_hen_job::parts::parts(&home, &home.setups[2], &Plan::new(&home.house, home.units));
        let text = parts_csv(&list, home.units).unwrap();
        let rows: Vec<csv::StringRecord> =
            csv::Reader::from_reader(text.as_bytes()).records().map(Result::unwrap).collect();
        let of = |kind: &str| rows.iter().filter(|row| &row[0] == kind).count();
        assert_eq!((of("total"), of("cable"), of("port")), (1, 1, 1));
        let priced = rows.iter().filter(|row| &row[0] == "part").map(|row| row[4].parse::<f64>().unwrap()).sum::<f64>();
        let total: f64 = rows.iter().find(|row| &row[0] == "total").unwrap()[4].parse().unwrap();
        assert!((priced - total).abs() < 0.05, "{priced} and {total}");
    }
}
