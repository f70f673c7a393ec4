//! A flat in an old gasworks: one level, concrete, just begun.

use busy_hen_home::{
    AccessLine, Activity, Complaint, ComplaintId, Enclosure, Home, Hours, LengthUnit, Mode, Plan, PlanId, RoomId,
    Setup, SetupId, Tenure,
};
use jiff::civil::date;

use crate::build::{device, level, settle_rooms, used};

/// The flat with one setup and nothing measured.
#[must_use]
pub fn gasworks_flat() -> Home {
    let mut home = Home::new("Gasworks flat", "GB", LengthUnit::Foot);
    home.house.levels = vec![level(
        "Flat",
        2.8,
        "concrete_floor",
        "Lobby 6' x 14'\n\
         Living room 18' x 14' east of Lobby\n\
         Bedroom 12' x 11' south of Living room flush east\n\
         Workroom 12' x 11' west of Bedroom",
    )];
    home.house.outer_wall = "concrete200".into();
    home.house.inner_wall = "concrete100".into();
    settle_rooms(&mut home);
    home.example = Some("Begin at Brief: the complaint about large files is explained there.".into());
    home.brief.complaint = "Large files crawl in the workroom.".into();
    home.brief.tenure = Tenure::Rented;
    home.brief.plans = vec![Plan::sold(PlanId::named("flat"), date(2025, 9, 1), (900.0, 110.0), AccessLine::Fibre)];
    home.brief.uses = vec![
        used("Workroom", "", Activity::HomeOffice, 2),
        used("Living room", "", Activity::UhdFilm, 1),
        used("Bedroom", "", Activity::Browsing, 1),
    ];
    home.brief.complaints = vec![Complaint {
        id: ComplaintId::named("flat"),
        words: "Large files crawl in the workroom.".into(),
        room_id: Some(RoomId::named("Workroom")),
        comes_and_goes: false,
        hours: Some(Hours { from: 9, to: 17 }),
        answer: String::new(),
    }];
    let mut router = device("flat A", "Router", "router_ax", Mode::Router, ("Flat", 0.9, 0.8), None);
    router.enclosure = Enclosure::MetalCabinet;
    router.there_already = true;
    home.setups = vec![Setup::new(SetupId::named("flat A"), "A", "as found", vec![router])];
    home
}

#[cfg(test)]
mod tests {
    #[test]
    fn the_flat_is_drawn_whole_and_passes_every_check() {
        let home = super::gasworks_flat();
        assert_eq!(busy_hen_floorplan::draw(&home.house.levels, home.units).faults, []);
        busy_hen_job::check::check(&home).unwrap();
    }
}
