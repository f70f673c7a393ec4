//! Draws what `docs/MODEL.md` shows: predictions against readings of practice, how often ranges hold, and the empty house against the
//! tracer room by room. `cargo xtask pictures` writes them to `docs/pictures`.
#![allow(clippy::unwrap_used)]

use std::collections::BTreeMap;
use std::path::Path;

use busy_hen_engine::predict::of_house;
use busy_hen_engine::propagation::Waves;
use busy_hen_engine::propagation::published::Law;
use busy_hen_home::Doors;
use busy_hen_testkit::practice;
use busy_hen_testkit::traced::{houses, points};
use busy_hen_units::Megahertz;
use plotters::coord::Shift;
use plotters::prelude::*;
use plotters::style::text_anchor::{HPos, Pos, VPos};

type Canvas<'a> = DrawingArea<SVGBackend<'a>, Shift>;
type Done = Result<(), Box<dyn std::error::Error>>;

const INK: RGBColor = RGBColor(33, 37, 45);
const LEAF: RGBColor = RGBColor(47, 107, 87);
const COMB: RGBColor = RGBColor(179, 56, 44);
const QUIET: RGBColor = RGBColor(150, 150, 150);
const BANDS: [(f64, RGBColor); 2] = [(2.437, LEAF), (5.5, COMB)];

fn main() -> Done {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/pictures");
    std::fs::create_dir_all(&folder)?;
    practice_picture(&canvas(&folder.join("practice.svg"), (640, 520))?)?;
    ranges_picture(&canvas(&folder.join("ranges.svg"), (640, 360))?)?;
    rooms_picture(&canvas(&folder.join("corridor-flat.svg"), (640, 400))?)
}

fn canvas(file: &Path, size: (u32, u32)) -> Result<Canvas<'_>, Box<dyn std::error::Error>> {
    let canvas = SVGBackend::new(file, size).into_drawing_area();
    canvas.fill(&WHITE)?;
    Ok(canvas)
}

fn practice_picture(canvas: &Canvas<'_>) -> Done {
    let (from, to) = (20.0_f64, 1000.0_f64);
    let mut chart = ChartBuilder::on(canvas)
        .margin(12)
        .x_label_area_size(36)
        .y_label_area_size(52)
        .caption("Predicted against read, Mb/s (lines: equal, and a factor of 1.3)", ("sans-serif", 15))
        .build_cartesian_2d((from..to).log_scale(), (from..to).log_scale())?;
    chart
        .configure_mesh()
        .x_desc("read in practice")
        .y_desc("predicted, with its likely range")
        .light_line_style(WHITE)
        .x_labels(6)
        .y_labels(6)
        .x_label_formatter(&|value| format!("{value:.0}"))
        .y_label_formatter(&|value| format!("{value:.0}"))
        .draw()?;
    for (factor, colour) in [(1.0, INK), (1.3, QUIET), (1.0 / 1.3, QUIET)] {
        let ends = [from.max(from / factor), to.min(to / factor)];
        chart.draw_series(LineSeries::new(ends.map(|x| (x, x * factor)), colour))?;
    }
    for row in practice::rows() {
        let found = row.predicted_in(&practice::home(&row.file)).down;
        let read = (row.low * row.high).sqrt();
        let colour = if row.file.starts_with("concrete") { COMB } else { LEAF };
        let bounded = |value: f64| value.clamp(from, to);
        let range = [found.poor, found.good].map(|end| (read, bounded(end.get())));
        chart.draw_series(LineSeries::new(range, colour.mix(0.5).stroke_width(3)))?;
        chart.draw_series([Circle::new((read, bounded(found.middle.get())), 4, colour.filled())])?;
    }
    Ok(canvas.present()?)
}

/// Part of the traced points that walls and law alone hold, and of the readings of practice that whole ranges hold.
fn ranges_picture(canvas: &Canvas<'_>) -> Done {
    let mut bars: Vec<(String, f64)> = Vec::new();
    for house in houses() {
        let plan = house.plan();
        for (ghz, _) in BANDS {
            let waves = Waves::new(&plan, Megahertz::new(ghz * 1000.0), Doors::AsLeft);
            let (mut held, mut all) = (0, 0);
            for point in points() {
                if point.house != house.name || (point.band_ghz - ghz).abs() > 0.01 || point.room == "garden" {
                    continue;
                }
                let (a, b) = point.ends();
                let loss = Law::EmptyHouse.loss(&plan, &waves, a, b);
                all += 1;
                held += usize::from((loss.get() - point.pl_ray_matched_db).abs() <= 1.2816 * of_house(loss).get());
            }
            bars.push((format!("{} {ghz:.1}", house.name), f64::from(held as u32) / f64::from(all)));
        }
    }
    let rows = practice::rows();
    let held = rows.iter().filter(|row| row.is_held_by(&row.predicted_in(&practice::home(&row.file)))).count();
    bars.push(("practice, whole range".into(), held as f64 / rows.len() as f64));
    bars_picture(canvas, "Part that lies in the 10 to 90 % range (promised: 0.8)", &bars, 0.0..1.0, &[0.8])
}

fn rooms_picture(canvas: &Canvas<'_>) -> Done {
    let house = houses().into_iter().find(|house| house.name == "f_block").unwrap();
    let plan = house.plan();
    let mut bars = Vec::new();
    for (ghz, _) in BANDS {
        let waves = Waves::new(&plan, Megahertz::new(ghz * 1000.0), Doors::AsLeft);
        let mut rooms: BTreeMap<String, Vec<f64>> = BTreeMap::new();
        for point in points().iter().filter(|p| p.house == house.name && (p.band_ghz - ghz).abs() < 0.01) {
            let (a, b) = point.ends();
            let off = Law::EmptyHouse.loss(&plan, &waves, a, b).get() - point.pl_ray_matched_db;
            rooms.entry(point.room.clone()).or_default().push(off);
        }
        let mean = |list: Vec<f64>| list.iter().sum::<f64>() / list.len() as f64;
        bars.extend(rooms.into_iter().map(|(room, off)| (format!("{room} {ghz:.1}"), mean(off))));
    }
    bars_picture(canvas, "Corridor flat: empty house less tracer by room, dB", &bars, -10.0..10.0, &[4.0, -4.0])
}

fn bars_picture(
    canvas: &Canvas<'_>,
    title: &str,
    bars: &[(String, f64)],
    scale: std::ops::Range<f64>,
    lines: &[f64],
) -> Done {
    let width = bars.len() as f64;
    let mut chart = ChartBuilder::on(canvas)
        .margin(12)
        .x_label_area_size(118)
        .y_label_area_size(40)
        .caption(title, ("sans-serif", 15))
        .build_cartesian_2d(0.0..width, scale)?;
    let upright = ("sans-serif", 11).into_font().transform(FontTransform::Rotate270).into_text_style(canvas);
    let upright = upright.pos(Pos::new(HPos::Right, VPos::Center));
    chart.configure_mesh().disable_x_mesh().disable_x_axis().light_line_style(WHITE).draw()?;
    for line in lines {
        chart.draw_series(LineSeries::new([(0.0, *line), (width, *line)], QUIET))?;
    }
    for (index, (name, value)) in bars.iter().enumerate() {
        let x = index as f64;
        let colour = if name.ends_with("2.4") { LEAF } else { COMB };
        chart.draw_series([Rectangle::new([(x + 0.2, 0.0), (x + 0.8, *value)], colour.filled())])?;
        let foot = chart.backend_coord(&(x + 0.5, chart.y_range().start));
        canvas.draw_text(name, &upright, (foot.0, foot.1 + 6))?;
    }
    Ok(canvas.present()?)
}
