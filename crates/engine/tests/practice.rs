//! Situations from practice (common practice; layouts ours): how near the predictions come to what was read, and whether the
//! stated ranges hold it. Prints factor and coverage for every row; asserts the bars over all of them.

#![allow(clippy::unwrap_used)]

use busy_hen_engine::catalogue::clients;
use busy_hen_engine::geometry::Plan;
use busy_hen_engine::predict::{Kept, Model, Prediction, Question};
use busy_hen_home::{Doors, Home, Setup, Situation};
use busy_hen_testkit::practice::{PracticeAt, PracticeRow, home, rows};
use jiff::civil::date;

/// What is predicted for a row.
fn predicted(home: &Home, setup: &Setup, row: &PracticeRow) -> Prediction {
    let plan = Plan::new(&home.house, home.units);
    let kept = Kept::default();
    let question = Question {
        client: clients::find(&row.client).unwrap(),
        band: row.band,
        situation: Situation::Alone,
        doors: Doors::AsLeft,
        reach: row.reach,
        day: date(2026, 11, 1),
    };
    let model = Model::new(home, setup, &plan, question, &kept);
    match row.at {
        PracticeAt::Place(x, y, level) => {
            let room = plan.room_at(level, x, y).map(|room| room.id);
            model.at(plan.in_hand(level, x, y), room)
        }
        PracticeAt::Signal(wanted) => {
            // Straight out into the yard until it is as weak as that.
            let at = |x: f64| model.at(plan.in_hand(0, x, 2.0), None);
            let heard = |x: f64| at(x).served.map_or(-200.0, |served| served.signal_dbm.get());
            let (mut near, mut far) = (6.0, 400.0);
            for _ in 0..40 {
                let middle = (near + far) / 2.0;
                if heard(middle) > wanted { near = middle } else { far = middle }
            }
            at(near)
        }
    }
}

#[test]
fn predictions_come_near_what_practice_reads_and_their_ranges_hold_it() {
    let all = rows();
    let (mut near, mut beyond, mut held) = (0, 0, 0);
    for row in &all {
        let home = home(&row.file);
        let setup = home.setups.iter().find(|own| own.letter == row.setup).unwrap();
        let found = predicted(&home, setup, row);
        let middle = found.down.middle.get();
        let factor = if middle < row.low {
            middle / row.low
        } else if middle > row.high {
            middle / row.high
        } else {
            1.0
        };
        let holds = found.down.poor.get() <= row.high && row.low <= found.down.good.get();
        near += usize::from((1.0 / 1.3..=1.3).contains(&factor));
        beyond += usize::from(!(0.5..=2.0).contains(&factor));
        held += usize::from(holds);
        println!(
            "{:28} {} {:>4.0}-{:<4.0} read, {:>4.0} ({:.0} to {:.0}) predicted, x{factor:.2}{} {}",
            row.file,
            row.setup,
            row.low,
            row.high,
            middle,
            found.down.poor.get(),
            found.down.good.get(),
            if holds { "" } else { " OUTSIDE" },
            row.what
        );
    }
    println!("{near} of {} within 1.3, {beyond} beyond 2, ranges hold {held}", all.len());
    assert!(near * 4 >= all.len() * 3, "three in four come within a factor of 1.3");
    assert!(beyond <= 1, "at most one is beyond a factor of two");
    assert!((all.len() * 7 / 10..all.len()).contains(&held), "ten to ninety per cent is not everything, and not less");
}

/// Where nobody drew a door, rooms in a row and rooms along a hall are told alike, and each range holds the other's middle.
#[test]
fn layouts_that_are_told_alike_are_predicted_alike() {
    for row in rows().iter().filter(|row| row.file.ends_with("-rooms")) {
        let of = |file: &str| {
            let home = home(file);
            let setup = home.setups.iter().find(|own| own.letter == row.setup).unwrap();
            predicted(&home, setup, row)
        };
        let (rooms, hall) = (of(&row.file), of(&row.file.replace("-rooms", "-hall")));
        for (one, other) in [(&rooms, &hall), (&hall, &rooms)] {
            let holds = one.down.poor <= other.down.middle && other.down.middle <= one.down.good;
            assert!(holds, "{} {}: {:?} does not hold {:?}", row.file, row.setup, one.down, other.down.middle);
        }
        let signal = |found: &Prediction| found.served.unwrap().signal_dbm.get();
        let off = (signal(&rooms) - signal(&hall)).abs();
        println!("{} {}: {off:.1} dB apart", row.file, row.setup);
        assert!(off <= 6.0, "{} {}: {off:.1} dB apart", row.file, row.setup);
    }
}
