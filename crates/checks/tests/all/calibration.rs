//! Learning from readings of which it is known what they should teach.

use std::sync::Arc;

use busy_hen_catalogue::clients;
use busy_hen_floorplan::Plan;
use busy_hen_home::{
    BuildingPart, CarriedBy, Doors, Home, LossCorrection, Outcome, PerBand, Round, Run, RunId, SetupId, Situation,
    Source, TestKind, WallKey,
};
use busy_hen_predict::calibration::{By, Calibration};
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_radio::propagation::PartOfHouse;
use busy_hen_survey::calibration::evidence::Taken;
use busy_hen_survey::calibration::lessons::{About, Lesson};
use busy_hen_survey::calibration::next::{door_question, next_spots};
use busy_hen_survey::calibration::{calibrate, lessons as learnt_lessons};
use busy_hen_testkit::dwellings::dwelling;
use busy_hen_testkit::runs::round;
use busy_hen_units::{Db, Dbm, MbitPerSec};
use jiff::civil::date;

fn question(reach: TestKind) -> Question {
    Question {
        client: clients::find("phone_ax").unwrap(),
        band: None,
        situation: Situation::Alone,
        doors: Doors::AsLeft,
        reach,
        day: date(2026, 11, 1),
    }
}

/// A round in which every spot reads just what the law predicts in the home as it really is; local, since a plan would cap it.
fn read(truth: &Home, setup: &str) -> (Round, Vec<Run>) {
    let mut round = round("r", SetupId::named(setup), Vec::new());
    round.kind = TestKind::Local;
    let plan = Plan::new(&truth.house, truth.units);
    let kept = Knowledge::default();
    let model = Model::new(truth, truth.setup(round.setup_id).unwrap(), &plan, question(TestKind::Local), &kept);
    let mut runs = Vec::new();
    for spot in &truth.house.spots {
        let (_, at) = plan.spot(spot).unwrap();
        let Some(served) = model.at(at, Some(spot.room_id)).served else { continue };
        let down = model.at(at, Some(spot.room_id)).down.middle;
        let outcome = Outcome::Measured {
            down_mbps: down,
            up_mbps: down,
            idle_ms: None,
            loaded_ms: None,
            jitter_ms: None,
            loss_percent: None,
        };
        for number in 0..3 {
            let id = RunId::named(&format!("{setup} {} {number}", spot.id.0));
            let run = Run::new(id, round.id, spot.id, round.begun, Source::Phone, outcome.clone());
            runs.push(Run {
                serving: Some(served.device),
                band: Some(served.band),
                signal_dbm: Some(served.signal_dbm),
                ..run
            });
        }
    }
    (round, runs)
}

fn learnt(home: &Home, rounds: &[(Round, Vec<Run>)]) -> Option<Calibration> {
    let taken: Vec<Taken<'_>> = rounds.iter().map(|(round, runs)| Taken { round, home, runs }).collect();
    calibrate(&taken, &Knowledge::default())
}

fn lessons(home: &Home, learnt: &Calibration) -> Vec<Lesson> {
    let name = |id| home.setups.iter().find_map(|own| own.device(id)).unwrap().name.clone();
    learnt_lessons::lessons(learnt, &learnt.plan(home), &name, false)
}

/// A home whose wall of this key really takes so much more.
fn with_heavier(home: &Home, key: WallKey, more: f64) -> Home {
    let mut truth = home.clone();
    truth.house.corrections.push(LossCorrection { of: BuildingPart::Wall(key), more_db: PerBand::all(Db::new(more)) });
    truth
}

/// The wall that most readings of setup A lean on.
fn telling_wall(home: &Home) -> WallKey {
    let plan = Plan::new(&home.house, home.units);
    let kept = Knowledge::default();
    let setup = home.setup(SetupId::named("A")).unwrap();
    let model = Model::new(home, setup, &plan, question(TestKind::Local), &kept);
    let mut sums: Vec<(WallKey, f64)> = Vec::new();
    for spot in &home.house.spots {
        for lean in model.sensitivities(plan.spot(spot).unwrap().1).unwrap_or_default() {
            let PartOfHouse::Wall(key) = lean.on else { continue };
            match sums.iter_mut().find(|(own, _)| *own == key) {
                Some((_, sum)) => *sum += lean.db_per_db.powi(2),
                None => sums.push((key, lean.db_per_db.powi(2))),
            }
        }
    }
    sums.into_iter().max_by(|a, b| a.1.total_cmp(&b.1)).unwrap().0
}

#[test]
fn readings_that_agree_with_the_tables_teach_nothing_to_say() {
    let home = dwelling(3);
    let own = learnt(&home, &[read(&home, "A"), read(&home, "B")]).unwrap();
    let told = lessons(&home, &own);
    assert!(told.is_empty(), "{told:?}");
    let (before, after) = own.off();
    assert!(before.get() < 0.6 && after.get() < 1.0, "{before} {after}");
    assert!((own.air().part - 1.0).abs() < 0.05);
}

#[test]
fn a_heavy_wall_is_felt_and_predictions_behind_it_move_towards_it() {
    let (mut better, mut cases) = (0, 0);
    for number in 0..8 {
        let home = dwelling(number);
        let truth = with_heavier(&home, telling_wall(&home), 12.0);
        let own = Arc::new(learnt(&home, &[read(&truth, "A"), read(&truth, "B")]).unwrap());
        let untaught = Knowledge::default();
        let taught = untaught.having(Some(own));
        let setup = home.setup(SetupId::named("A")).unwrap();
        let (plain, corrected) = (Plan::new(&home.house, home.units), taught.plan(&home));
        let real = Plan::new(&truth.house, truth.units);
        let by = |home: &Home, plan: &Plan, kept: &Knowledge| -> Vec<Option<f64>> {
            let model = Model::new(home, setup, plan, question(TestKind::Local), kept);
            let places =
                plan.rooms.iter().map(|room| (room.id, plan.in_hand(room.level, room.rect.x + 0.4, room.rect.y + 0.4)));
            places.map(|(id, at)| model.at(at, Some(id)).served.map(|own| own.signal_dbm.get())).collect()
        };
        let (before, after, is) =
            (by(&home, &plain, &untaught), by(&home, &corrected, &taught), by(&truth, &real, &untaught));
        let off = |list: &[Option<f64>]| {
            let each = list.iter().zip(&is).filter_map(|(own, is)| Some((own.as_ref()? - is.as_ref()?).abs()));
            each.sum::<f64>()
        };
        cases += 1;
        better += usize::from(off(&after) < off(&before));
        let model = Model::new(&home, setup, &corrected, question(TestKind::Local), &taught);
        for room in &corrected.rooms {
            let at = corrected.middle_of(room);
            let Some(chain) = model.chain(at, Some(room.id)) else { continue };
            let arrives = model.at(at, Some(room.id)).down.middle;
            assert!((chain.arrives_down_mbps - arrives).get().abs() < 1e-9, "{}: two figures for one thing", room.name);
        }
    }
    assert!(better >= cases - 1, "{better} of {cases}");
}

#[test]
fn a_wall_is_named_where_readings_can_tell_it() {
    let named = (0..12).filter(|number| {
        let home = dwelling(*number);
        let key = telling_wall(&home);
        let truth = with_heavier(&home, key, 14.0);
        let own = learnt(&home, &[read(&truth, "A"), read(&truth, "B")]).unwrap();
        let told = lessons(&home, &own);
        told.iter().any(|own| {
            own.about == About::Part && own.parts.contains(&PartOfHouse::Wall(key)) && own.more_db.get() > 1.5
        })
    });
    let named = named.count();
    assert!(named >= 4, "{named} of 12");
}

#[test]
fn a_weak_radio_and_a_deaf_phone_are_told_apart_only_where_they_can_be() {
    let home = dwelling(5);
    let mut rounds = [read(&home, "A"), read(&home, "B")];
    for (_, runs) in &mut rounds {
        for run in runs {
            run.signal_dbm = run.signal_dbm.map(|own| own - Db::new(6.0));
        }
    }
    let own = learnt(&home, &rounds).unwrap();
    let told = lessons(&home, &own);
    assert!(
        told.iter().any(|own| matches!(own.about, About::Home | About::Radio) && own.more_db.get() > 2.0),
        "{told:?}"
    );
}

#[test]
fn readings_beyond_all_that_a_home_can_be_off_ask_for_another_look() {
    let home = dwelling(5);
    let told = |weaker: f64| {
        let (round, mut runs) = read(&home, "A");
        for run in &mut runs {
            run.signal_dbm = run.signal_dbm.map(|own| own - Db::new(weaker));
        }
        lessons(&home, &learnt(&home, &[(round, runs)]).unwrap()).iter().any(|own| own.told.contains("as noted"))
    };
    assert!(told(24.0) && !told(5.0));
}

#[test]
fn slower_air_than_signals_let_expect_is_learnt_as_air() {
    let home = dwelling(5);
    let mut rounds = [read(&home, "A"), read(&home, "B")];
    for run in rounds.iter_mut().flat_map(|(_, runs)| runs) {
        if let Outcome::Measured { down_mbps, .. } = &mut run.outcome {
            *down_mbps = MbitPerSec::new(0.6 * down_mbps.get());
        }
    }
    let own = learnt(&home, &rounds).unwrap();
    assert!(own.air().part < 0.9 && own.air().unsure < 1.0 && own.air().from > 3, "{:?}", own.air());
    assert!(lessons(&home, &own).iter().any(|own| own.about == About::Air));
}

#[test]
fn what_does_not_count_teaches_nothing() {
    let home = dwelling(2);
    let none = |spoil: fn(&mut Run)| {
        let (round, mut runs) = read(&home, "A");
        runs.iter_mut().for_each(spoil);
        learnt(&home, &[(round, runs)]).is_none()
    };
    assert!(none(|run| run.void = Some("a call came in".into())));
    assert!(none(|run| run.carried_by = CarriedBy::MobileData));
    assert!(none(|run| run.carried_by = CarriedBy::Cable));
    assert!(learnt(&home, &[]).is_none());
    // Of a device that is not there any more nothing is known.
    assert!(none(|run| run.serving = Some(busy_hen_home::DeviceId::named("gone"))));
}

#[test]
fn made_up_readings_teach_only_while_there_are_no_others() {
    let home = dwelling(2);
    let (round, mut made_up) = read(&home, "A");
    for run in &mut made_up {
        run.source = Source::Walker;
        run.signal_dbm = Some(Dbm::new(-90.0));
    }
    let own = learnt(&home, &[(round.clone(), made_up.clone())]).unwrap();
    assert!(own.made_up());
    let measured = read(&home, "A");
    let both = learnt(&home, &[(round, made_up), measured.clone()]).unwrap();
    assert!(!both.made_up());
    assert_eq!(both.runs().len(), measured.1.len());
}

#[test]
fn speeds_without_signals_teach_too_and_those_at_a_ceiling_only_bound() {
    let home = dwelling(6);
    let (round, mut runs) = read(&home, "A");
    for run in &mut runs {
        run.signal_dbm = None;
    }
    let own = learnt(&home, &[(round.clone(), runs.clone())]).unwrap();
    assert!(own.observations().iter().any(|own| own.by == By::Speed || own.by == By::Ceiling));
    // A speed that the router's port lets through and no more says only that the air was good enough.
    for run in &mut runs {
        if let Outcome::Measured { down_mbps, .. } = &mut run.outcome {
            *down_mbps = MbitPerSec::new(1.0e6);
        }
    }
    let most = learnt(&home, &[(round, runs)]);
    assert!(most.is_none_or(|own| own.observations().iter().all(|own| own.by == By::Ceiling)));
}

#[test]
fn a_wall_that_was_rebuilt_does_not_keep_what_was_learnt_of_it() {
    let home = dwelling(1);
    let truth = with_heavier(&home, telling_wall(&home), 14.0);
    let own = learnt(&home, &[read(&truth, "A"), read(&truth, "B")]).unwrap();
    let more = |home: &Home| -> f64 { own.plan(home).walls.iter().map(|wall| wall.more.ghz_5.get().abs()).sum() };
    assert!(more(&home) > 1.0, "{}", more(&home));
    let mut rebuilt = home.clone();
    let other = |key: &str| if key == "brick105" { "plasterboard" } else { "brick105" };
    rebuilt.house.inner_wall = other(&home.house.inner_wall.0).into();
    rebuilt.house.outer_wall = if home.house.outer_wall.0 == "cavity" { "stone400" } else { "cavity" }.into();
    assert!(more(&rebuilt) < 0.2 * more(&home), "{} {}", more(&rebuilt), more(&home));
}

#[test]
fn likely_ranges_shrink_where_readings_are_and_not_where_none_are() {
    let home = dwelling(4);
    let plan = Plan::new(&home.house, home.units);
    let (round, runs) = read(&home, "A");
    let spot = &home.house.spots[0];
    let near: Vec<Run> = runs.into_iter().filter(|run| run.spot_id == spot.id).collect();
    let kept = Knowledge::default();
    let taught = kept.having(learnt(&home, &[(round, near)]).map(Arc::new));
    let setup = home.setup(SetupId::named("A")).unwrap();
    let sure = |kept: &Knowledge, spot: &busy_hen_home::Spot| {
        let model = Model::new(&home, setup, &plan, question(TestKind::Local), kept);
        model.sure(plan.spot(spot).unwrap().1).unwrap().get()
    };
    assert!(sure(&taught, spot) < 0.6 * sure(&kept, spot), "{} {}", sure(&taught, spot), sure(&kept, spot));
    let far = home.house.spots.last().unwrap();
    assert!(sure(&taught, far) > 0.75 * sure(&kept, far), "{} {}", sure(&taught, far), sure(&kept, far));
    let model = Model::new(&home, setup, &plan, question(TestKind::Local), &taught);
    let next = next_spots(&model, &[spot.id]);
    assert!(next.iter().all(|own| own.spot_id != spot.id) && next.len() + 1 == home.house.spots.len());
    assert!(next.windows(2).all(|pair| pair[0].takes_of_doubt >= 0.0 && pair[1].takes_of_doubt <= 1.0));
    assert!(!next[0].in_words(&plan).is_empty());
}

#[test]
fn what_is_kept_of_how_sure_links_are_changes_no_answer() {
    let home = dwelling(4);
    let (round, runs) = read(&home, "A");
    let near: Vec<Run> = runs.iter().filter(|run| run.spot_id == home.house.spots[0].id).cloned().collect();
    let plan = Plan::new(&home.house, home.units);
    let mut moved = home.clone();
    for device in &mut moved.setups[0].devices {
        device.at.x_m += busy_hen_units::Metres::new(0.5);
    }
    let answers = |home: &Home, kept: &Knowledge| -> Vec<_> {
        let model = Model::new(home, &home.setups[0], &plan, question(TestKind::Local), kept);
        home.house.spots.iter().map(|own| model.at(plan.spot(own).unwrap().1, Some(own.room_id))).collect()
    };
    let one = Knowledge::default();
    for runs in [near, runs] {
        let taught = learnt(&home, &[(round.clone(), runs)]).map(Arc::new);
        // Asked twice, with another device place in between, under another learning than before.
        for asked in [&home, &moved, &home] {
            assert_eq!(
                answers(asked, &one.having(taught.clone())),
                answers(asked, &Knowledge::default().having(taught.clone()))
            );
        }
    }
}

#[test]
fn the_door_that_decides_is_asked_about_and_none_that_does_not() {
    let mut home = dwelling(7);
    let plan = Plan::new(&home.house, home.units);
    let setup = home.setup(SetupId::named("A")).unwrap().clone();
    let own = door_question(&home, &setup, &plan, question(TestKind::Local), &Knowledge::default());
    if let Some(own) = own {
        assert!(own.told.contains("usually shut") && own.open_mbps.get() > own.shut_mbps.get(), "{own:?}");
    }
    for level in &mut home.house.levels {
        level.lines = level.lines.lines().map(|line| line.split(';').next().unwrap()).collect::<Vec<_>>().join("\n");
    }
    let bare = Plan::new(&home.house, home.units);
    assert!(door_question(&home, &setup, &bare, question(TestKind::Local), &Knowledge::default()).is_none());
}
