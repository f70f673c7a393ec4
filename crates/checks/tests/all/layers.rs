//! The layers of the lit map on whole homes: each shade holds where its own question says so.

use busy_hen_catalogue::clients;
use busy_hen_floorplan::Plan;
use busy_hen_home::{Band, Doors, Home, Situation, TestKind};
use busy_hen_predict::layers::{Layer, Shaded, cell_for, shades};
use busy_hen_predict::progress::Watch;
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_units::Metres;
use jiff::civil::date;

fn question() -> Question {
    let client = clients::find("phone_ax").unwrap();
    let day = date(2026, 11, 1);
    Question { client, band: None, situation: Situation::Alone, doors: Doors::AsLeft, reach: TestKind::Internet, day }
}

const CELL: Metres = Metres::new(0.5);

/// The highest shade that holds at a place; none where none does.
fn shade_at(shaded: &[Shaded], x: f64, y: f64) -> Option<usize> {
    let inside = |ring: &[f64]| {
        let points: Vec<(f64, f64)> = ring.chunks_exact(2).map(|p| (p[0], p[1])).collect();
        let mut odd = false;
        for (a, b) in points.iter().zip(points.iter().cycle().skip(1)) {
            if (a.1 > y) != (b.1 > y) && x < (b.0 - a.0) * (y - a.1) / (b.1 - a.1) + a.0 {
                odd = !odd;
            }
        }
        odd
    };
    let holds =
        |own: &&Shaded| own.polygons.iter().any(|rings| rings.iter().filter(|ring| inside(ring)).count() % 2 == 1);
    shaded.iter().rfind(holds).map(|own| own.shade)
}

fn covered(home: &Home, setup: usize, layer: Layer, look: impl Fn(&Model<'_>, &Plan, &[Vec<Shaded>])) {
    let plan = Plan::new(&home.house, home.units);
    let kept = Knowledge::default();
    let model = Model::new(home, &home.setups[setup], &plan, question(), &kept);
    let other = match layer {
        Layer::Difference { setup_id } => {
            Some(Model::new(home, home.setup(setup_id).unwrap(), &plan, question(), &kept))
        }
        _ => None,
    };
    let of = |level: usize| {
        let map = model.coverage(level, CELL);
        model.shaded(level, CELL, layer, &map, other.as_ref(), &Watch::default())
    };
    let all: Vec<Vec<Shaded>> = (0..plan.levels.len()).map(of).collect();
    let count = shades(layer, home, &home.setups[setup]).len();
    assert!(all.iter().flatten().all(|own| own.shade < count), "{layer:?}");
    look(&model, &plan, &all);
}

#[test]
fn each_layer_says_at_a_rooms_middle_what_the_model_says_there() {
    let home = busy_hen_demo::canal_terrace();
    let rooms = |plan: &Plan| -> Vec<(usize, f64, f64)> {
        let middle = |room: &busy_hen_floorplan::PlanRoom| {
            let at = plan.middle_of(room);
            (room.level, at.x, at.y)
        };
        plan.rooms.iter().map(middle).collect()
    };
    covered(&home, 1, Layer::Signal { band: Band::Ghz5 }, |model, plan, shaded| {
        for (level, x, y) in rooms(plan) {
            let served = model.at(plan.in_hand(level, x, y), None).served.filter(|own| own.band == Band::Ghz5);
            let Some(served) = served else { continue };
            let shade = shade_at(&shaded[level], x, y).unwrap_or(0);
            let least = [f64::NEG_INFINITY, -88.0, -82.0, -76.0, -70.0, -64.0, -58.0, -50.0][shade];
            // A cell of half a metre lies beside the middle by a little.
            assert!(served.signal_dbm.get() > least - 3.0, "{shade} at {}", served.signal_dbm);
        }
    });
    covered(&home, 1, Layer::Serves, |model, plan, shaded| {
        for (level, x, y) in rooms(plan) {
            let served = model.at(plan.in_hand(level, x, y), None).served;
            let told = shade_at(&shaded[level], x, y).map(|shade| home.setups[1].devices[shade - 1].id);
            if told.is_none() != served.is_none() {
                continue; // the end of a range runs through the cell
            }
            assert_eq!(told, served.map(|own| own.device));
        }
    });
    covered(&home, 1, Layer::PlanShare, |model, plan, shaded| {
        for (level, x, y) in rooms(plan) {
            let part = model.at(plan.in_hand(level, x, y), None).down.middle.get() / 300.0;
            let shade = shade_at(&shaded[level], x, y).unwrap_or(0);
            assert!(part > [0.0, 0.05, 0.1, 0.25, 0.5, 0.75, 0.95][shade] * 0.8 - 1e-9, "{part} in shade {shade}");
        }
    });
}

#[test]
fn a_setup_differs_from_itself_nowhere_and_a_better_one_somewhere() {
    let home = busy_hen_demo::canal_terrace();
    let own = home.setups[1].id;
    covered(&home, 1, Layer::Difference { setup_id: own }, |_, _, shaded| {
        assert!(shaded.iter().flatten().all(|own| own.shade <= 2), "alike everywhere");
        assert!(shaded.iter().all(|level| level.iter().any(|own| own.shade == 2)));
    });
    covered(&home, 1, Layer::Difference { setup_id: home.setups[0].id }, |_, _, shaded| {
        assert!(shaded.iter().flatten().any(|own| own.shade == 4), "the node upstairs gives the attic twice and more");
    });
}

#[test]
fn doubt_is_least_beside_the_router_and_nowhere_is_untold() {
    let home = busy_hen_demo::canal_terrace();
    covered(&home, 0, Layer::Doubt, |model, plan, shaded| {
        let router = model.network().nodes[0].at;
        let beside = shade_at(&shaded[0], router.x + 0.6, router.y + 0.6).unwrap();
        let garden = plan.rooms.iter().find(|room| room.name == "Garden").unwrap();
        let at = plan.middle_of(garden);
        let far = shade_at(&shaded[garden.level], at.x, at.y).unwrap();
        assert!(beside == 0 && far > beside, "{beside} and {far}");
    });
}

#[test]
fn fine_lines_carry_their_figure_and_the_plan_has_one_of_its_own() {
    let home = busy_hen_demo::canal_terrace();
    let plan = Plan::new(&home.house, home.units);
    let kept = Knowledge::default();
    let model = Model::new(&home, &home.setups[0], &plan, question(), &kept);
    let lines: Vec<_> = (0..plan.levels.len()).flat_map(|level| model.coverage(level, CELL).fine_lines).collect();
    let whole: Vec<_> = lines.iter().filter(|line| line.whole_plan).collect();
    assert!(!whole.is_empty() && whole.iter().all(|line| line.figure == "300"), "{whole:?}");
    for line in lines.iter().filter(|line| !line.whole_plan) {
        let Some((x, y)) = line.x_m.zip(line.y_m) else { continue };
        let level = (0..3).find(|level| model.coverage(*level, CELL).fine_lines.contains(line)).unwrap();
        let there = model.at(plan.in_hand(level, x.get(), y.get()), None).down.middle.get();
        let told: f64 = line.figure.parse().unwrap();
        if told < 10.0 {
            continue; // where the range ends, speeds fall from tens to nothing within a cell
        }
        assert!(there > told * 0.6 && there < told * 1.7, "{there} where the line says {told}");
    }
}

#[test]
fn a_house_of_any_size_is_lit_in_a_few_thousand_cells() {
    for home in [busy_hen_demo::canal_terrace(), busy_hen_demo::gasworks_flat(), busy_hen_demo::lock_house()] {
        let plan = Plan::new(&home.house, home.units);
        let cell = cell_for(&plan).get();
        let area: f64 = (0..plan.levels.len()).filter_map(|l| plan.bounds(l)).map(|b| b.width * b.depth).sum();
        assert!(area / (cell * cell) <= 5001.0 && cell >= 0.2, "{}: {cell}", home.name);
    }
}
