//! Homes to begin from, each a few lines to change, and what houses of a look and age are made of: made up, after common practice.

use busy_hen_home::LengthUnit;
use serde::Serialize;
use utoipa::ToSchema;

/// A home to begin from.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Start {
    /// What it is.
    pub name: &'static str,
    /// The text of the house in metres: see the format of house lines.
    pub metres: &'static str,
    /// The same house in feet and inches.
    pub feet: &'static str,
}

impl Start {
    /// Its text in this unit.
    #[must_use]
    pub fn text(&self, unit: LengthUnit) -> &'static str {
        match unit {
            LengthUnit::Metre => self.metres,
            LengthUnit::Foot => self.feet,
        }
    }
}

/// All of them.
pub const STARTS: [Start; 6] = [
    Start {
        name: "terrace",
        metres: "lengths in metres
level Ground, 2.6 high, concrete floor
Hall 1.2 x 7
- stairs 0.9 x 2.4 at 0.2, 3; door north
Front room 3.6 x 3.6 east of Hall; door to Hall
Back room 3.6 x 3.4 south of Front room; door to Hall
Kitchen 3 x 3.2 south of Back room flush east; door to Back room
level First, 2.5 high, timber floor
Landing 1.2 x 7 above Hall
Front bedroom 3.6 x 3.6 east of Landing; door to Landing
Back bedroom 3.6 x 3.4 south of Front bedroom; door to Landing
Bathroom 3 x 3.2 south of Back bedroom flush east; door to Back bedroom",
        feet: "lengths in feet
level Ground, 8'6\" high, concrete floor
Hall 4' x 23'
- stairs 3' x 8' at 6\", 10'; door north
Front room 12' x 12' east of Hall; door to Hall
Back room 12' x 11' south of Front room; door to Hall
Kitchen 10' x 10'6\" south of Back room flush east; door to Back room
level First, 8'3\" high, timber floor
Landing 4' x 23' above Hall
Front bedroom 12' x 12' east of Landing; door to Landing
Back bedroom 12' x 11' south of Front bedroom; door to Landing
Bathroom 10' x 10'6\" south of Back bedroom flush east; door to Back bedroom",
    },
    Start {
        name: "semi-detached",
        metres: "lengths in metres
level Ground, 2.6 high, concrete floor
Hall 1.9 x 4.2
- stairs 0.9 x 2.6 at 0.1, 1.4; door north
Living room 3.6 x 4.2 east of Hall; door to Hall
Dining room 3 x 3.4 south of Living room flush east; door to Living room
Kitchen 2.5 x 3.4 west of Dining room; door to Hall
level First, 2.5 high, timber floor
Landing 1.9 x 5.4 above Hall
Front bedroom 3.6 x 4.2 east of Landing; door to Landing
Back bedroom 3.6 x 3.4 south of Front bedroom; door to Landing
Bathroom 1.9 x 2.2 south of Landing; door to Landing",
        feet: "lengths in feet
level Ground, 8'6\" high, concrete floor
Hall 6'6\" x 14'
- stairs 3' x 8'6\" at 6\", 4'6\"; door north
Living room 12' x 14' east of Hall; door to Hall
Dining room 10' x 11' south of Living room flush east; door to Living room
Kitchen 8'6\" x 11' west of Dining room; door to Hall
level First, 8'3\" high, timber floor
Landing 6'6\" x 18' above Hall
Front bedroom 12' x 14' east of Landing; door to Landing
Back bedroom 12' x 11' south of Front bedroom; door to Landing
Bathroom 6'6\" x 7' south of Landing; door to Landing",
    },
    Start {
        name: "flat",
        metres: "lengths in metres
under a concrete floor
over a concrete floor
level Flat, 2.7 high, concrete floor
Hall 1.4 x 6
- door north
Living room 4.5 x 4 east of Hall; door to Hall
Kitchen 4.5 x 2.4 south of Living room; door to Living room
Bedroom 3.4 x 3.6 west of Hall; door to Hall
Bathroom 3.4 x 2.2 south of Bedroom; door to Hall",
        feet: "lengths in feet
under a concrete floor
over a concrete floor
level Flat, 9' high, concrete floor
Hall 4'6\" x 20'
- door north
Living room 15' x 13' east of Hall; door to Hall
Kitchen 15' x 8' south of Living room; door to Living room
Bedroom 11' x 12' west of Hall; door to Hall
Bathroom 11' x 7' south of Bedroom; door to Hall",
    },
    Start {
        name: "bungalow",
        metres: "lengths in metres
level Ground, 2.6 high, concrete floor
Hall 8 x 1.2
- door west
Living room 5 x 4.2 south of Hall; door to Hall
Kitchen 3 x 4.2 east of Living room; door to Hall
Bedroom 1 3.6 x 3.4 north of Hall; door to Hall
Bathroom 1.8 x 3.4 east of Bedroom 1; door to Hall
Bedroom 2 2.6 x 3.4 east of Bathroom; door to Hall",
        feet: "lengths in feet
level Ground, 8'6\" high, concrete floor
Hall 26' x 4'
- door west
Living room 16' x 14' south of Hall; door to Hall
Kitchen 10' x 14' east of Living room; door to Hall
Bedroom 1 12' x 11' north of Hall; door to Hall
Bathroom 6' x 11' east of Bedroom 1; door to Hall
Bedroom 2 8' x 11' east of Bathroom; door to Hall",
    },
    Start {
        name: "two-storey detached",
        metres: "lengths in metres
level Ground, 2.6 high, concrete floor
Hall 2 x 4.5
- stairs 0.9 x 2.6 at 0.1, 1.6; door north
Living room 4 x 4.5 east of Hall; door to Hall
Study 3 x 4.5 west of Hall; door to Hall
Kitchen 6 x 3.6 south of Living room flush east; door to Hall
Utility 3 x 3.6 west of Kitchen; door to Kitchen
Garden 9 x 10 south of Utility outdoors
level First, 2.5 high, timber floor
Landing 2 x 4.5 above Hall
Main bedroom 4 x 4.5 east of Landing; door to Landing
Bathroom 3 x 4.5 west of Landing; door to Landing
Back bedroom 5 x 3.6 south of Main bedroom flush east; door to Landing
Small bedroom 4 x 3.6 west of Back bedroom; door to Landing",
        feet: "lengths in feet
level Ground, 8'6\" high, concrete floor
Hall 6'6\" x 15'
- stairs 3' x 8'6\" at 6\", 5'; door north
Living room 13' x 15' east of Hall; door to Hall
Study 10' x 15' west of Hall; door to Hall
Kitchen 19'6\" x 12' south of Living room flush east; door to Hall
Utility 10' x 12' west of Kitchen; door to Kitchen
Garden 29'6\" x 33' south of Utility outdoors
level First, 8'3\" high, timber floor
Landing 6'6\" x 15' above Hall
Main bedroom 13' x 15' east of Landing; door to Landing
Bathroom 10' x 15' west of Landing; door to Landing
Back bedroom 16'6\" x 12' south of Main bedroom flush east; door to Landing
Small bedroom 13' x 12' west of Back bedroom; door to Landing",
    },
    Start {
        name: "loft",
        metres: "lengths in metres
over a timber floor
level Loft, 2.8 high, timber floor
Loft 7 x 9
- door north
Bathroom 2.2 x 2.4 east of Loft; door to Loft
Bedroom 4 x 3 south of Loft; door to Loft",
        feet: "lengths in feet
over a timber floor
level Loft, 9'3\" high, timber floor
Loft 23' x 30'
- door north
Bathroom 7' x 8' east of Loft; door to Loft
Bedroom 13' x 10' south of Loft; door to Loft",
    },
];

/// What houses of a look and age are made of, by keys of the catalogue.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct LookAndAge {
    /// What one sees.
    pub name: &'static str,
    /// Outer walls.
    pub outer_wall: &'static str,
    /// Inner walls.
    pub inner_wall: &'static str,
    /// Windows.
    pub windows: &'static str,
    /// Floors between storeys.
    pub floors: &'static str,
}

/// All of them; common practice, to be looked at on the spot.
pub const LOOKS: [LookAndAge; 9] = [
    LookAndAge {
        name: "stone house, before about 1850",
        outer_wall: "stone400",
        inner_wall: "brick105",
        windows: "glass",
        floors: "timber_floor",
    },
    LookAndAge {
        name: "brick terrace of about 1900",
        outer_wall: "brick215",
        inner_wall: "brick105",
        windows: "dg",
        floors: "timber_floor",
    },
    LookAndAge {
        name: "brick with a cavity, 1930 to 1970",
        outer_wall: "cavity",
        inner_wall: "brick105",
        windows: "dg",
        floors: "timber_floor",
    },
    LookAndAge {
        name: "brick and block, 1970 to 2000",
        outer_wall: "cavity",
        inner_wall: "block100",
        windows: "dg",
        floors: "timber_floor",
    },
    LookAndAge {
        name: "brick and stud, since about 2000",
        outer_wall: "cavity",
        inner_wall: "plasterboard",
        windows: "lowe",
        floors: "timber_floor",
    },
    LookAndAge {
        name: "timber frame, insulated, new",
        outer_wall: "double_plasterboard",
        inner_wall: "plasterboard",
        windows: "lowe",
        floors: "timber_floor",
    },
    LookAndAge {
        name: "concrete block of flats, 1960 to 1990",
        outer_wall: "concrete150",
        inner_wall: "concrete100",
        windows: "dg",
        floors: "concrete_floor",
    },
    LookAndAge {
        name: "new concrete flats, heated floors",
        outer_wall: "rc200",
        inner_wall: "plasterboard",
        windows: "lowe",
        floors: "concrete_floor",
    },
    LookAndAge {
        name: "old factory or mill, made into homes",
        outer_wall: "stone400",
        inner_wall: "double_plasterboard",
        windows: "lowe",
        floors: "timber_floor",
    },
];
