//! What can be said against a house.

use super::check::{Check, REACH_LIMIT_M};
use crate::House;
use crate::house::PerBand;

/// Most rooms of a home.
pub const ROOMS_LIMIT: usize = 400;

/// Most typed lines of a level.
const LINES_LIMIT: usize = 400;

pub(super) fn house(house: &House, check: &mut Check) {
    check
        .unique(house.levels.iter().enumerate().map(|(i, l)| (l.id, format!("/house/levels/{i}/id"))), "This level id");
    check.unique(
        house.levels.iter().enumerate().map(|(i, l)| (l.name.to_lowercase(), format!("/house/levels/{i}/name"))),
        "A level of this name",
    );
    check.that(house.levels.len() <= 12, "/house/levels", "A home has at most 12 levels here; remove some.");
    for (index, level) in house.levels.iter().enumerate() {
        let at = format!("/house/levels/{index}");
        check.name(&level.name, &format!("{at}/name"), "A level");
        check.text(&level.lines, &format!("{at}/lines"), "The text of a level");
        check.that(
            level.lines.lines().count() <= LINES_LIMIT,
            format!("{at}/lines"),
            format!("{} has over {LINES_LIMIT} lines; spread them over levels or homes.", level.name),
        );
        check.length(level.height_m, 1.8..=8.0, format!("{at}/height_m"), |height, limits| {
            format!("{} is {height} high; a level is {limits} from floor to floor.", level.name)
        });
        if let Some(tracing) = level.tracing {
            let far = [tracing.x_m, tracing.y_m].iter().any(|at| at.get().abs() > REACH_LIMIT_M);
            check.that(
                !far && (0.5..=REACH_LIMIT_M).contains(&tracing.width_m.get())
                    && (0.0..=1.0).contains(&tracing.shows_part),
                format!("{at}/tracing"),
                format!("The picture under {} lies too far off, or is too small or large; place it anew.", level.name),
            );
        }
    }
    let rooms = house.rooms.len();
    check.that(
        rooms <= ROOMS_LIMIT,
        "/house/rooms",
        format!(
            "The house has {rooms} rooms; at most {ROOMS_LIMIT} are computed here, so split it into several homes."
        ),
    );
    check.unique(
        house.rooms.iter().enumerate().map(|(i, r)| (r.name.to_lowercase(), format!("/house/rooms/{i}/name"))),
        "A room of this name",
    );
    check.unique(house.rooms.iter().enumerate().map(|(i, r)| (r.id, format!("/house/rooms/{i}/id"))), "This room id");
    for (index, room) in house.rooms.iter().enumerate() {
        let at = format!("/house/rooms/{index}");
        check.name(&room.name, &format!("{at}/name"), "A room");
        check.that(
            house.level(room.level_id).is_some(),
            format!("{at}/level_id"),
            format!("{} lies on a level that the house does not have.", room.name),
        );
    }
    check.unique(
        house.walls.iter().enumerate().map(|(i, w)| ((w.room_id, w.side), format!("/house/walls/{i}"))),
        "This wall",
    );
    for (index, wall) in house.walls.iter().enumerate() {
        check.that(
            house.room(wall.room_id).is_some(),
            format!("/house/walls/{index}/room_id"),
            "A wall belongs to a room that the house does not have.",
        );
        check.that(
            wall.thickness_m.is_none_or(|thickness| (0.005..=1.5).contains(&thickness.get())),
            format!("/house/walls/{index}/thickness_m"),
            "A wall is 0.005 to 1.5 m thick; leave the thickness empty when it is the usual one.",
        );
    }
    check.that(house.spots.len() <= 2000, "/house/spots", "A home has at most 2000 spots here; remove some.");
    check.unique(house.spots.iter().enumerate().map(|(i, s)| (s.id, format!("/house/spots/{i}/id"))), "This spot id");
    for (index, spot) in house.spots.iter().enumerate() {
        let at = format!("/house/spots/{index}");
        check.that(
            house.room(spot.room_id).is_some(),
            format!("{at}/room_id"),
            "A spot lies in a room that the house does not have.",
        );
        for (field, part) in [("east_part", spot.east_part), ("south_part", spot.south_part)] {
            check.that(
                (0.0..=1.0).contains(&part),
                format!("{at}/{field}"),
                "A spot lies outside of its room; move it inside.",
            );
        }
    }
}

pub(super) fn openings(house: &House, check: &mut Check) {
    let (openings, stairs) = (house.openings.len(), house.stairwells.len());
    check.that(openings <= 500, "/house/openings", "A home has at most 500 doors and windows here; remove some.");
    check.that(stairs <= 50, "/house/stairwells", "A home has at most 50 stairwells here; remove some.");
    for (index, opening) in house.openings.iter().enumerate() {
        let at = format!("/house/openings/{index}");
        check.that(
            house.room(opening.room_id).is_some(),
            format!("{at}/room_id"),
            "An opening belongs to a room that the house does not have.",
        );
        check.that(
            (0.0..=1.0).contains(&opening.along_part),
            format!("{at}/along_part"),
            "An opening lies beyond the end of its wall; move it onto the wall.",
        );
        check.length(opening.width_m, 0.2..=12.0, format!("{at}/width_m"), |width, limits| {
            format!("An opening is {width} wide; it must be {limits}.")
        });
    }
    for (index, stairwell) in house.stairwells.iter().enumerate() {
        let at = format!("/house/stairwells/{index}");
        check.that(
            house.room(stairwell.room_id).is_some(),
            format!("{at}/room_id"),
            "Stairs rise from a room that the house does not have.",
        );
        for (field, part) in [("east_part", stairwell.east_part), ("south_part", stairwell.south_part)] {
            check.that(
                (0.0..=1.0).contains(&part),
                format!("{at}/{field}"),
                "Stairs lie outside of their room; move them inside.",
            );
        }
        for (field, size) in [("width_m", stairwell.width_m), ("depth_m", stairwell.depth_m)] {
            check.length(size, 0.4..=10.0, format!("{at}/{field}"), |size, limits| {
                format!("A hole for stairs measures {size}; it must be {limits}.")
            });
        }
    }
}

pub(super) fn obstacles(house: &House, check: &mut Check) {
    let list = &house.obstacles;
    check.that(list.len() <= 100, "/house/obstacles", "A home has at most 100 obstacles here; remove some.");
    check.unique(list.iter().enumerate().map(|(i, o)| (o.id, format!("/house/obstacles/{i}/id"))), "This obstacle id");
    for (index, one) in list.iter().enumerate() {
        let at = format!("/house/obstacles/{index}");
        check.that(
            house.level(one.level_id).is_some(),
            format!("{at}/level_id"),
            "An obstacle stands on a level that the house does not have.",
        );
        let ends =
            [("from_x_m", one.from_x_m), ("from_y_m", one.from_y_m), ("to_x_m", one.to_x_m), ("to_y_m", one.to_y_m)];
        for (field, value) in ends {
            check.that(
                value.get().abs() <= REACH_LIMIT_M,
                format!("{at}/{field}"),
                format!("An obstacle lies over {} from the origin; bring it nearer.", check.reach()),
            );
        }
        check.length(one.height_m, 0.2..=40.0, format!("{at}/height_m"), |height, limits| {
            format!("An obstacle is {height} high; it must be {limits}.")
        });
        check.length(one.depth_m, 0.0..=200.0, format!("{at}/depth_m"), |depth, limits| {
            format!("An obstacle is {depth} deep; it must be {limits}.")
        });
    }
}

pub(super) fn corrections(house: &House, check: &mut Check) {
    let list = &house.corrections;
    check.that(list.len() <= 5000, "/house/corrections", "At most 5000 corrections are kept; remove some.");
    check.unique(
        list.iter().enumerate().map(|(i, one)| (one.of, format!("/house/corrections/{i}/of"))),
        "A correction of this part",
    );
    for (index, one) in list.iter().enumerate() {
        let PerBand { ghz_2_4, ghz_5, ghz_6 } = one.more_db;
        check.that(
            [ghz_2_4, ghz_5, ghz_6].iter().all(|more| more.get().abs() <= 60.0),
            format!("/house/corrections/{index}/more_db"),
            "A correction is at most 60 dB either way.",
        );
    }
}
