//! What can be said against a home without any catalogue: missing names, dangling references, impossible numbers, loops.

mod brief;
mod check;
mod house;
mod own_kit;
mod setup;

use brief::brief;
use check::Check;
pub use house::ROOMS_LIMIT;
use house::{corrections, house, obstacles, openings};
use own_kit::own_kit;
use setup::{neighbours, setup};

use crate::Home;
use crate::fault::Faults;

impl Home {
    /// Checks all that can be checked without a catalogue; `job::check` adds materials, kit and radio rules.
    ///
    /// # Errors
    /// Every fault, each with a JSON pointer into the home.
    pub fn validate(&self) -> Result<(), Faults> {
        let mut check = Check { units: self.units, faults: Vec::new() };
        check.name(&self.name, "/name", "The home");
        if let Some(example) = &self.example {
            check.text(example, "/example", "Where to begin");
        }
        let passwords = self.passwords.iter().enumerate();
        check.unique(passwords.clone().map(|(i, own)| (own.id, format!("/passwords/{i}/id"))), "This id of a password");
        for (index, own) in passwords {
            check.name(&own.what, &format!("/passwords/{index}/what"), "A password");
            check.text(&own.network, &format!("/passwords/{index}/network"), "The name of a network");
            check.text(&own.sealed, &format!("/passwords/{index}/sealed"), "An encrypted password");
        }
        if let Some(decision) = &self.decision {
            check.text(&decision.because, "/decision/because", "The reason");
            let there = self.setup(decision.setup_id).is_some();
            check.that(
                there,
                "/decision/setup_id",
                "The setup that was decided on is not in the home; choose another.",
            );
        }
        brief(&self.brief, &self.house, &mut check);
        house(&self.house, &mut check);
        openings(&self.house, &mut check);
        obstacles(&self.house, &mut check);
        corrections(&self.house, &mut check);
        neighbours(&self.air, &mut check);
        own_kit(&self.own_kit, &mut check);
        check.unique(
            self.setups.iter().enumerate().map(|(i, s)| (s.letter.clone(), format!("/setups/{i}/letter"))),
            "This setup letter",
        );
        check.unique(self.setups.iter().enumerate().map(|(i, s)| (s.id, format!("/setups/{i}/id"))), "This setup id");
        check.that(self.setups.len() <= 100, "/setups", "A home has at most 100 setups here; remove some.");
        for (index, one) in self.setups.iter().enumerate() {
            setup(one, &self.house, &format!("/setups/{index}"), &mut check);
        }
        Faults::check(check.faults)
    }
}

#[cfg(test)]
mod tests {
    use crate::id::{DeviceId, LevelId, PlanId, RoomId, SetupId, UseId};
    use crate::*;
    use jiff::civil::date;

    fn device(name: &str, to: Option<&str>) -> Device {
        Device {
            uplink: to.map(|to| Uplink::new(DeviceId::named(to), Via::cable(CableClass::Cat6))),
            ..Device::bare(
                DeviceId::named(name),
                name,
                "router_ax",
                Mode::Router,
                Position {
                    level_id: LevelId::named("ground"),
                    x_m: Metres::new(1.0),
                    y_m: Metres::new(1.0),
                    height_m: Metres::new(1.0),
                },
            )
        }
    }

    fn home(devices: Vec<Device>) -> Home {
        let mut home = Home::new("Lock cottage", "GB", LengthUnit::Metre);
        home.house.levels.push(Level {
            id: LevelId::named("ground"),
            name: "Ground".into(),
            height_m: Metres::new(2.6),
            floor: "timber_floor".into(),
            lines: String::new(),
            tracing: None,
        });
        home.setups.push(Setup::new(SetupId::named("A"), "A", "As found", devices));
        home
    }

    fn pointers(home: &Home) -> Vec<String> {
        home.validate().err().map(|f| f.list().iter().map(|f| f.pointer.clone()).collect()).unwrap_or_default()
    }

    #[test]
    fn a_tree_of_uplinks_is_fine() {
        let home = home(vec![device("R", None), device("N", Some("R")), device("M", Some("N"))]);
        assert_eq!(pointers(&home), Vec::<String>::new());
    }

    #[test]
    fn uplinks_in_a_circle_are_found() {
        let home = home(vec![device("R", None), device("N", Some("M")), device("M", Some("N"))]);
        assert_eq!(pointers(&home), ["/setups/0/devices/1/uplink/to", "/setups/0/devices/2/uplink/to"]);
    }

    #[test]
    fn what_hung_on_a_device_taken_off_hangs_on_what_it_hung_on() {
        let mut home = home(vec![device("R", None), device("N", Some("R")), device("M", Some("N"))]);
        let setup = &mut home.setups[0];
        let told = setup.take_off(DeviceId::named("R")).unwrap_err().message;
        assert!(told.contains("The line enters at R"), "{told}");
        setup.take_off(DeviceId::named("N")).unwrap();
        assert_eq!(setup.devices[1].uplink.as_ref().map(|uplink| uplink.to), Some(DeviceId::named("R")));
        setup.take_off(DeviceId::named("M")).unwrap();
        setup.take_off(DeviceId::named("R")).unwrap();
        assert!(setup.devices.is_empty());
    }

    #[test]
    fn two_devices_at_the_line_are_found() {
        assert_eq!(pointers(&home(vec![device("R", None), device("N", None)])), ["/setups/0/devices"]);
    }

    #[test]
    fn all_faults_come_at_once_each_with_its_place() {
        let mut home = home(Vec::new());
        home.name = " ".into();
        home.house.levels[0].height_m = Metres::new(0.5);
        home.brief.uses.push(RoomUse {
            id: UseId::named("u"),
            room_id: RoomId::named("nowhere"),
            activity: Activity::Call,
            people: 0,
            who: String::new(),
            hours: None,
        });
        home.brief.plans.push(Plan::sold(PlanId::named("p"), date(2026, 1, 1), (f64::NAN, 20.0), AccessLine::Fibre));
        assert_eq!(
            pointers(&home),
            [
                "/name",
                "/brief/plans/0/down_mbps",
                "/brief/uses/0/room_id",
                "/brief/uses/0/people",
                "/house/levels/0/height_m"
            ]
        );
    }

    #[test]
    fn what_can_not_be_seen_in_a_name_is_refused_and_other_scripts_are_not() {
        for name in ["Kitchen\u{202e}", "Kit\u{200b}chen", "a\nb", "\u{feff}x"] {
            let mut home = home(Vec::new());
            home.name = name.into();
            assert_eq!(pointers(&home), ["/name"], "{name:?}");
        }
        for name in ["陶芸小屋", "Дом у канала", "می‌خواهم", "Çatı"] {
            let mut home = home(Vec::new());
            home.name = name.into();
            assert_eq!(pointers(&home), Vec::<String>::new(), "{name}");
        }
    }

    #[test]
    fn a_house_of_more_rooms_than_are_computed_is_told() {
        let mut home = home(Vec::new());
        home.house.rooms = (0..401)
            .map(|number| Room {
                id: RoomId::named(&number.to_string()),
                name: number.to_string(),
                level_id: LevelId::named("ground"),
            })
            .collect();
        assert_eq!(pointers(&home), ["/house/rooms"]);
    }

    #[test]
    fn letters_go_on_after_z() {
        let mut home = home(Vec::new());
        assert_eq!(home.next_setup_letter(), "B");
        home.setups = ('A'..='Z')
            .map(|letter| letter.to_string())
            .map(|letter| Setup::new(SetupId::named(&letter), &letter, "x", Vec::new()))
            .collect();
        assert_eq!(home.next_setup_letter(), "A1");
    }

    #[test]
    fn a_misspelt_field_is_refused_not_ignored() {
        let mut json = serde_json::to_value(home(Vec::new())).unwrap();
        json["house"]["outer_wal"] = "brick105".into();
        assert!(serde_json::from_value::<Home>(json).is_err());
    }
}
