//! The lock house: a stone bungalow whose house is typed and whose needs are noted, with no setup drawn yet.

use busy_hen_home::{AccessLine, Activity, Home, LengthUnit, Plan, PlanId};
use jiff::civil::date;

use crate::build::{level, settle_rooms, used};

/// The lock house; no setups.
#[must_use]
pub fn lock_house() -> Home {
    let mut home = Home::new("Lock house", "GB", LengthUnit::Metre);
    home.house.levels = vec![level(
        "Ground",
        2.5,
        "concrete_floor",
        "Hall 2.2 x 3.0\n\
         Parlour 4.6 x 4.4 east of Hall\n\
         Bedroom 4.2 x 4.4 west of Hall\n\
         Scullery 2.2 x 1.4 south of Hall\n\
         Lockside 11 x 7 south of Scullery centred outdoors",
    )];
    home.house.outer_wall = "stone400".into();
    home.house.inner_wall = "brick105".into();
    settle_rooms(&mut home);
    home.example = Some("Begin at Setups: place a router and see what reaches the lock.".into());
    home.brief.complaint = "The camera over the lock loses its picture whenever it rains.".into();
    home.brief.plans = vec![Plan::sold(PlanId::named("lock"), date(2024, 10, 1), (36.0, 7.0), AccessLine::Dsl)];
    home.brief.uses = vec![
        used("Lockside", "lock camera", Activity::Camera, 1),
        used("Parlour", "", Activity::HdFilm, 1),
        used("Bedroom", "", Activity::Music, 1),
    ];
    home
}

#[cfg(test)]
mod tests {
    #[test]
    fn the_lock_house_is_drawn_whole_and_passes_every_check() {
        let home = super::lock_house();
        assert_eq!(busy_hen_floorplan::draw(&home.house.levels, home.units).faults, []);
        busy_hen_job::check::check(&home).unwrap();
    }
}
