//! Draws the study of learning for `docs/MODEL.md`: how far predictions of rooms that nobody read are off, before and after.
#![allow(clippy::unwrap_used, dead_code, missing_docs)]

#[path = "../tests/all/calibration/study.rs"]
mod study;

use std::path::Path;

use plotters::prelude::*;
use study::{Case, stage, traced_stage};

const INK: RGBColor = RGBColor(33, 37, 45);
const COLOURS: [(&str, RGBColor); 3] = [
    ("by the tables", RGBColor(150, 150, 150)),
    ("as learnt", RGBColor(179, 56, 44)),
    ("an oracle that knows walls and devices", RGBColor(47, 107, 87)),
];

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let cases: Vec<Case> = (0..30).map(Case::new).collect();
    let parts = [1.0 / 3.0, 2.0 / 3.0];
    let mut stages = Vec::new();
    for part in parts {
        stages.push((format!("30 dwellings, {:.0} % read", 100.0 * part), stage(&cases, part)));
    }
    for part in parts {
        stages.push((format!("traced, {:.0} % read", 100.0 * part), traced_stage(part)));
    }
    let file = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/pictures/learning.svg");
    let canvas = SVGBackend::new(&file, (640, 360)).into_drawing_area();
    canvas.fill(&WHITE)?;
    let mut chart = ChartBuilder::on(&canvas)
        .margin(12)
        .x_label_area_size(30)
        .y_label_area_size(48)
        .caption("Signal in rooms that nobody read: middle half and median of how far it is off", ("sans-serif", 15))
        .build_cartesian_2d(0.0..4.0, 0.0..9.0)?;
    let names: Vec<String> = stages.iter().map(|(name, _)| name.clone()).collect();
    chart
        .configure_mesh()
        .disable_x_mesh()
        .light_line_style(WHITE)
        .y_desc("dB")
        .x_labels(9)
        .x_label_formatter(&|x: &f64| {
            let place = (*x - 0.5).round();
            if (x - place - 0.5).abs() < 0.01 {
                names.get(place as usize).cloned().unwrap_or_default()
            } else {
                String::new()
            }
        })
        .draw()?;
    for (nth, (name, colour)) in COLOURS.iter().enumerate() {
        let boxes = stages.iter().enumerate().map(|(index, (_, own))| {
            let mut list = [&own.before, &own.after, &own.oracle][nth].clone();
            list.sort_by(f64::total_cmp);
            let at = |part: f64| list[(part * (list.len() - 1) as f64) as usize];
            let x = index as f64 + 0.25 + 0.25 * nth as f64;
            (x, at(0.25), at(0.5), at(0.75))
        });
        let boxes: Vec<_> = boxes.collect();
        chart
            .draw_series(boxes.iter().map(|(x, low, _, high)| {
                Rectangle::new([(x - 0.09, *low), (x + 0.09, *high)], colour.mix(0.55).filled())
            }))?
            .label(*name)
            .legend(|(x, y)| Rectangle::new([(x, y - 5), (x + 12, y + 5)], colour.filled()));
        chart.draw_series(boxes.iter().map(|(x, _, middle, _)| {
            PathElement::new(vec![(x - 0.1, *middle), (x + 0.1, *middle)], INK.stroke_width(2))
        }))?;
    }
    chart
        .configure_series_labels()
        .position(SeriesLabelPosition::UpperLeft)
        .border_style(INK.mix(0.3))
        .background_style(WHITE)
        .draw()?;
    canvas.present()?;
    Ok(())
}
