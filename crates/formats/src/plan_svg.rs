//! A level as a drawing to print: to scale on one sheet of A4 or A3, with sizes, areas and a scale bar.

use std::fmt::Write;

use busy_hen_floorplan::lines::lengths::say_length;
use busy_hen_floorplan::lines::thing::SocketKind;
use busy_hen_floorplan::parts::Stands;
use busy_hen_floorplan::{Plan, PlanRoom, Rect};
use busy_hen_home::{LengthUnit, OpeningKind};
use busy_hen_units::{Metres, SquareMetres};

/// Scales that a ruler has: so many metres in the house are one on paper.
const SCALES: [f64; 5] = [50.0, 100.0, 200.0, 500.0, 1000.0];
/// Usable part of a sheet of A4, mm: upright and lying.
const SHEETS: [(f64, f64); 2] = [(180.0, 240.0), (260.0, 160.0)];
/// Room for title, scale bar and sizes around the house, mm.
const MARGIN: f64 = 18.0;
/// Words on paper, mm.
const TEXT: f64 = 3.2;
/// Feet in a metre, squared.
const SQUARE_FEET: f64 = 1.0 / (Metres::PER_FOOT * Metres::PER_FOOT);

/// A level of a plan as SVG, in millimetres of paper; what nobody drew is left out.
#[must_use]
pub fn plan_svg(home: &str, plan: &Plan, level: usize, unit: LengthUnit) -> String {
    let bounds = plan.bounds(level).unwrap_or(Rect::new(0.0, 0.0, 5.0, 4.0));
    let fits = |scale: f64| {
        let (w, d) = (bounds.width * 1000.0 / scale + 2.0 * MARGIN, bounds.depth * 1000.0 / scale + 2.0 * MARGIN);
        SHEETS.iter().find(|(sheet_w, sheet_d)| w <= *sheet_w && d <= *sheet_d)
    };
    let scale = SCALES.into_iter().find(|scale| fits(*scale).is_some()).unwrap_or(SCALES[SCALES.len() - 1]);
    let mm = 1000.0 / scale;
    let (width, depth) = (bounds.width * mm + 2.0 * MARGIN, (bounds.depth * mm + 2.0 * MARGIN).max(50.0));
    let width = width.max(120.0);
    let x = |metres: f64| MARGIN + (metres - bounds.x) * mm;
    let y = |metres: f64| MARGIN + (metres - bounds.y) * mm;
    let mut svg = String::new();
    let mut put = |line: String| {
        let _ = writeln!(svg, "{line}");
    };
    put(format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{width:.1}mm\" height=\"{depth:.1}mm\" viewBox=\"0 0 {width:.2} {depth:.2}\" font-family=\"sans-serif\" font-size=\"{TEXT}\" fill=\"#20262e\">"
    ));
    put(format!("<rect width=\"{width:.2}\" height=\"{depth:.2}\" fill=\"#fff\"/>"));
    let area: SquareMetres =
        plan.rooms.iter().filter(|room| room.level == level && !room.outdoors).map(PlanRoom::area).sum();
    put(format!(
        "<text x=\"{MARGIN}\" y=\"8\" font-size=\"4.5\">{}: {}</text>",
        escaped(home),
        escaped(&plan.levels[level].name)
    ));
    put(format!(
        "<text x=\"{MARGIN}\" y=\"13\">1 : {scale:.0} · {} indoors · north is up</text>",
        say_area(area, unit)
    ));
    for room in plan.rooms.iter().filter(|room| room.level == level) {
        for part in room.rects() {
            let style = if room.outdoors {
                "fill=\"none\" stroke=\"#2f6b57\" stroke-width=\"0.3\" stroke-dasharray=\"1.5 1.5\""
            } else {
                "fill=\"#f6f2e8\""
            };
            put(rect(x(part.x), y(part.y), part.width * mm, part.depth * mm, style));
        }
    }
    for hole in plan.floors.iter().filter(|floor| floor.above == level + 1).flat_map(|floor| &floor.holes) {
        if !hole.assumed {
            let style = "fill=\"none\" stroke=\"#5d6670\" stroke-width=\"0.25\"";
            put(rect(x(hole.rect.x), y(hole.rect.y), hole.rect.width * mm, hole.rect.depth * mm, style));
            let (w, d) = (hole.rect.width * mm, hole.rect.depth * mm);
            let steps = ((w.max(d) / mm / 0.25).round() as usize).clamp(2, 40);
            for step in 1..steps {
                let part = step as f64 / steps as f64;
                let (x0, y0) = (x(hole.rect.x), y(hole.rect.y));
                let [x1, y1, x2, y2] = if d > w {
                    [x0, y0 + part * d, x0 + w, y0 + part * d]
                } else {
                    [x0 + part * w, y0, x0 + part * w, y0 + d]
                };
                put(line([x1, y1, x2, y2], "#5d6670", 0.15));
            }
        }
    }
    let foot = plan.levels[level].z;
    for own in plan.uprights.iter().filter(|own| (own.foot - foot).abs() < 1e-6) {
        let ends = [x(own.from.0), y(own.from.1), x(own.to.0), y(own.to.1)];
        put(line(ends, "#9aa08c", (own.depth.get() * mm).max(0.6)));
    }
    for wall in plan.walls.iter().filter(|wall| wall.level == level) {
        let ends = |from: f64, to: f64| {
            if wall.north_south {
                [x(wall.at), y(from), x(wall.at), y(to)]
            } else {
                [x(from), y(wall.at), x(to), y(wall.at)]
            }
        };
        let thick = if wall.envelope { 0.9 } else { 0.5 };
        put(line(ends(wall.from, wall.to), "#20262e", thick));
        for own in wall.openings.iter().filter(|own| !own.assumed) {
            put(line(ends(own.from, own.to), "#fff", thick + 0.2));
            match (own.kind, own.stands) {
                (OpeningKind::Window, _) => put(line(ends(own.from, own.to), "#1f5fa8", 0.4)),
                (OpeningKind::Door, Stands::Shut) => put(line(ends(own.from, own.to), "#5d6670", 0.3)),
                (OpeningKind::Door, _) => {}
            }
        }
    }
    for own in plan.sockets.iter().filter(|own| plan.rooms[own.room].level == level) {
        let (cx, cy) = (x(own.at.0), y(own.at.1));
        let mark = match own.socket.kind {
            SocketKind::Power => "p",
            SocketKind::Network => "n",
            SocketKind::Coax => "c",
            SocketKind::LineEntry => "line",
        };
        put(format!("<circle cx=\"{cx:.2}\" cy=\"{cy:.2}\" r=\"0.9\" fill=\"#b5392b\"/>"));
        let said = own.socket.label.as_deref().map_or_else(|| mark.to_owned(), |label| format!("{mark} {label}"));
        put(format!("<text x=\"{:.2}\" y=\"{:.2}\" font-size=\"2.2\">{}</text>", cx + 1.3, cy + 0.8, escaped(&said)));
    }
    for room in plan.rooms.iter().filter(|room| room.level == level) {
        let (cx, cy) = (x(room.rect.x + room.rect.width / 2.0), y(room.rect.y + room.rect.depth / 2.0));
        let fits = |text: &str, size: f64| size.min(room.rect.width * mm * 0.92 / (text.chars().count() as f64 * 0.55));
        let sides = format!(
            "{} x {}",
            say_length(Metres::new(room.rect.width), unit),
            say_length(Metres::new(room.rect.depth), unit)
        );
        for (text, size, down) in [
            (room.name.clone(), TEXT, -TEXT * 0.4),
            (sides, 2.5, TEXT * 0.7),
            (say_area(room.area(), unit), 2.5, TEXT * 1.6),
        ] {
            let size = fits(&text, size);
            put(format!(
                "<text x=\"{cx:.2}\" y=\"{:.2}\" text-anchor=\"middle\" font-size=\"{size:.2}\">{}</text>",
                cy + down,
                escaped(&text)
            ));
        }
    }
    // A bar as long as a round length in the home's unit.
    let (length, parts) = match unit {
        LengthUnit::Metre => (if scale > 100.0 { 5.0 } else { 2.0 }, "m"),
        LengthUnit::Foot => ((if scale > 100.0 { 20.0 } else { 10.0 }) * Metres::PER_FOOT, "ft"),
    };
    let at = depth - 8.0;
    put(line([MARGIN, at, MARGIN + length * mm, at], "#20262e", 0.6));
    let number = if unit == LengthUnit::Foot { length / Metres::PER_FOOT } else { length };
    put(format!("<text x=\"{MARGIN}\" y=\"{:.2}\">0 to {number:.0} {parts}</text>", at + 4.5));
    put(format!(
        "<text x=\"{:.2}\" y=\"{:.2}\" text-anchor=\"end\" font-size=\"2.5\">As paced; an estimate, not a survey.</text>",
        width - MARGIN,
        at + 4.5
    ));
    put("</svg>".to_owned());
    svg
}

fn rect(x: f64, y: f64, width: f64, depth: f64, style: &str) -> String {
    format!("<rect x=\"{x:.2}\" y=\"{y:.2}\" width=\"{width:.2}\" height=\"{depth:.2}\" {style}/>")
}

fn line([x1, y1, x2, y2]: [f64; 4], colour: &str, thick: f64) -> String {
    format!(
        "<line x1=\"{x1:.2}\" y1=\"{y1:.2}\" x2=\"{x2:.2}\" y2=\"{y2:.2}\" stroke=\"{colour}\" stroke-width=\"{thick:.2}\" stroke-linecap=\"square\"/>"
    )
}

fn say_area(area: SquareMetres, unit: LengthUnit) -> String {
    match unit {
        LengthUnit::Metre => format!("{:.1} m²", area.get()),
        LengthUnit::Foot => format!("{:.0} ft²", area.get() * SQUARE_FEET),
    }
}

/// Text that may stand in XML.
fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;")
}
