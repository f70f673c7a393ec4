//! Two edits of one home brought together, thing by thing.
//!
//! A thing is a value of the document: a field, or an entry of a list whose entries have ids. What only one side changed is taken
//! from that side; what both changed alike is taken once; what both changed differently is told, and nothing is merged.

use std::collections::BTreeSet;

use serde::Serialize;
use serde_json::{Map, Value};
use utoipa::ToSchema;

use crate::Home;

/// A thing that two edits changed differently.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct BothChanged {
    /// Where it stands in the home as one's own edit has it: names of fields, and ids or places of entries.
    pub pointer: String,
    /// What it is, for people.
    pub thing: String,
    /// What one's own edit makes of it; none when it takes it out.
    pub mine: Option<Value>,
    /// What it is now; none when it was taken out.
    pub theirs: Option<Value>,
}

/// The home that `theirs` becomes when what `mine` changed of `base` is done to it as well.
///
/// # Errors
/// Every thing that both sides changed differently.
pub fn merge(base: &Home, mine: &Home, theirs: &Home) -> Result<Home, Vec<BothChanged>> {
    if base == theirs {
        return Ok(mine.clone());
    }
    let document = |home: &Home| serde_json::to_value(home).unwrap_or(Value::Null);
    let mut merging = Merging { path: Vec::new(), names: Vec::new(), both: Vec::new() };
    let merged = merging.value(Some(&document(base)), Some(&document(mine)), Some(&document(theirs)));
    if merging.both.is_empty() {
        let unreadable =
            |_| vec![BothChanged { pointer: String::new(), thing: "the home".into(), mine: None, theirs: None }];
        serde_json::from_value(merged.unwrap_or(Value::Null)).map_err(unreadable)
    } else {
        Err(merging.both)
    }
}

/// Fields whose values only mean something together.
const WHOLE: [&str; 5] = ["at", "uplink", "aerial", "via", "loss_db"];

struct Merging {
    path: Vec<String>,
    /// Names of the named things on the way.
    names: Vec<String>,
    both: Vec<BothChanged>,
}

impl Merging {
    fn value(&mut self, base: Option<&Value>, mine: Option<&Value>, theirs: Option<&Value>) -> Option<Value> {
        if mine == theirs || mine == base {
            return theirs.cloned();
        }
        if theirs == base {
            return mine.cloned();
        }
        match (base, mine, theirs) {
            (Some(Value::Object(b)), Some(Value::Object(m)), Some(Value::Object(t))) if !self.is_whole() => {
                let keys: BTreeSet<&String> = b.keys().chain(m.keys()).chain(t.keys()).collect();
                let mut object = Map::new();
                for key in keys {
                    let named = m.get("name").or_else(|| t.get("name")).and_then(Value::as_str).map(str::to_owned);
                    if let Some(value) = self.step(key, named, b.get(key), m.get(key), t.get(key)) {
                        object.insert(key.clone(), value);
                    }
                }
                Some(Value::Object(object))
            }
            (Some(Value::Array(b)), Some(Value::Array(m)), Some(Value::Array(t))) => {
                match [b, m, t].map(|l| keyed(l)) {
                    [Some(b), Some(m), Some(t)] => Some(Value::Array(self.entries(&b, &m, &t))),
                    _ => self.clash(mine, theirs),
                }
            }
            _ => self.clash(mine, theirs),
        }
    }

    fn is_whole(&self) -> bool {
        self.path.last().is_some_and(|field| WHOLE.contains(&field.as_str()))
    }

    fn step(
        &mut self,
        key: &str,
        named: Option<String>,
        base: Option<&Value>,
        mine: Option<&Value>,
        theirs: Option<&Value>,
    ) -> Option<Value> {
        self.path.push(key.to_owned());
        let depth = self.names.len();
        self.names.extend(named);
        let value = self.value(base, mine, theirs);
        self.names.truncate(depth);
        self.path.pop();
        value
    }

    /// Entries of lists by their keys, in the order of the side that changed it (else that of `theirs`), with what `mine` adds behind what it
    /// stood behind.
    fn entries(&mut self, base: &Entries, mine: &Entries, theirs: &Entries) -> Vec<Value> {
        let find = |list: &Entries, key: &str| list.iter().find(|(own, _)| own == key).map(|(_, value)| value.clone());
        let keys = |list: &Entries| list.iter().map(|(key, _)| key.clone()).collect::<Vec<_>>();
        let mut order = keys(theirs);
        if order == keys(base) {
            // They left the order alone: mine holds, with what mine took out still in its place until it is decided.
            let taken_out: Vec<String> = order.drain(..).filter(|key| mine.iter().all(|(own, _)| own != key)).collect();
            order = keys(mine).into_iter().chain(taken_out).collect();
        }
        for (index, (key, _)) in mine.iter().enumerate() {
            if !order.contains(key) {
                let before =
                    index.checked_sub(1).and_then(|before| order.iter().position(|own| *own == mine[before].0));
                order.insert(before.map_or(order.len(), |before| before + 1), key.clone());
            }
        }
        order
            .iter()
            .filter_map(|key| {
                let (b, m, t) = (find(base, key), find(mine, key), find(theirs, key));
                self.step(key, None, b.as_ref(), m.as_ref(), t.as_ref())
            })
            .collect()
    }

    fn clash(&mut self, mine: Option<&Value>, theirs: Option<&Value>) -> Option<Value> {
        let name = |value: Option<&Value>| value?.get("name")?.as_str().map(str::to_owned);
        let own = name(mine).or_else(|| name(theirs));
        let named = own.or_else(|| self.names.last().cloned());
        let field = self.path.iter().rev().find(|field| !field.contains('-')).map_or("home", String::as_str);
        let field = field.replace('_', " ");
        self.both.push(BothChanged {
            pointer: self.path.iter().map(|part| format!("/{}", part.replace('~', "~0").replace('/', "~1"))).collect(),
            thing: named.map_or(field.clone(), |named| format!("{named}: {field}")),
            mine: mine.cloned(),
            theirs: theirs.cloned(),
        });
        theirs.cloned()
    }
}

type Entries = Vec<(String, Value)>;

/// Entries of a list with what tells each from the others; none when the list has nothing of that kind.
fn keyed(list: &[Value]) -> Option<Entries> {
    let mut seen = BTreeSet::new();
    list.iter()
        .map(|entry| {
            let key = key_of(entry)?;
            seen.insert(key.clone()).then(|| (key, entry.clone()))
        })
        .collect()
}

/// What tells an entry of a list from the others: its id, or the side of the room and the place along it.
fn key_of(entry: &Value) -> Option<String> {
    let text =
        |field: &str| entry.get(field).map(|value| value.as_str().map_or_else(|| value.to_string(), str::to_owned));
    if let Some(id) = text("id").or_else(|| text("key")) {
        return Some(id);
    }
    if let Some(rule) = text("rule") {
        return Some(format!("{rule}-{}", text("device_id").unwrap_or_default()));
    }
    let room = text("room_id").or_else(|| entry.get("of").map(Value::to_string))?;
    let place = ["side", "kind", "along_part", "east_part", "south_part"];
    Some(place.iter().filter_map(|field| text(field)).fold(room, |key, part| format!("{key}-{part}")))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::*;
    use busy_hen_units::Metres;

    fn level(name: &str, lines: &str) -> Level {
        Level {
            id: LevelId::named(name),
            name: name.into(),
            height_m: Metres::new(2.6),
            floor: "timber_floor".into(),
            lines: lines.into(),
            tracing: None,
        }
    }

    fn device(name: &str) -> Device {
        Device::bare(
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

    fn home() -> Home {
        let mut home = Home::new("Weir house", "GB", LengthUnit::Metre);
        home.house.levels = vec![level("ground", "Hall 2 x 3"), level("first", "Landing 2 x 3")];
        home.setups = vec![Setup::new(SetupId::named("A"), "A", "As found", vec![device("Router"), device("Node")])];
        home
    }

    fn changed(change: impl FnOnce(&mut Home)) -> Home {
        let mut home = home();
        change(&mut home);
        home
    }

    #[test]
    fn different_things_are_both_kept() {
        let mine = changed(|home| {
            home.setups[0].devices[1].at.x_m = Metres::new(3.0);
            home.house.levels[0].lines.push_str("\nKitchen 3 x 3 east of Hall");
            home.brief.complaint = "slow".into();
        });
        let theirs = changed(|home| {
            home.setups[0].devices[0].at.x_m = Metres::new(4.0);
            home.house.levels[1].lines.push_str("\nBath 2 x 2 east of Landing");
            home.brief.may_drill = true;
            home.setups[0].devices.push(device("Third"));
        });
        let merged = merge(&home(), &mine, &theirs).unwrap();
        let devices = &merged.setups[0].devices;
        assert!((devices[0].at.x_m.get() - 4.0).abs() < 1e-9 && (devices[1].at.x_m.get() - 3.0).abs() < 1e-9);
        assert_eq!(devices.len(), 3);
        assert!(merged.house.levels[0].lines.contains("Kitchen") && merged.house.levels[1].lines.contains("Bath"));
        assert!(merged.brief.may_drill && merged.brief.complaint == "slow");
    }

    #[test]
    fn the_same_thing_twice_is_told_with_both() {
        let mine = changed(|home| home.setups[0].devices[1].at.x_m = Metres::new(3.0));
        let theirs = changed(|home| home.setups[0].devices[1].at.y_m = Metres::new(4.0));
        let both = merge(&home(), &mine, &theirs).unwrap_err();
        assert_eq!(both.len(), 1, "a place is one thing");
        assert_eq!(both[0].thing, "Node: at");
        assert_eq!(both[0].mine.as_ref().unwrap()["x_m"], 3.0);
        assert_eq!(both[0].theirs.as_ref().unwrap()["y_m"], 4.0);
        let same = changed(|home| home.setups[0].devices[1].at.x_m = Metres::new(3.0));
        assert_eq!(merge(&home(), &mine, &same).unwrap(), mine, "the same change twice is one");
    }

    #[test]
    fn taking_off_what_another_changed_is_told_and_what_none_changed_goes() {
        let mine = changed(|home| {
            home.setups[0].devices.remove(1);
        });
        let theirs = changed(|home| home.setups[0].devices[1].name = "Loft".into());
        let both = merge(&home(), &mine, &theirs).unwrap_err();
        assert_eq!((both[0].mine.clone(), both[0].theirs.as_ref().unwrap()["name"].as_str()), (None, Some("Loft")));
        let elsewhere = changed(|home| home.name = "Mill".into());
        let merged = merge(&home(), &mine, &elsewhere).unwrap();
        assert_eq!((merged.setups[0].devices.len(), merged.name.as_str()), (1, "Mill"));
    }

    #[test]
    fn an_order_of_setups_outlives_what_others_change_in_them() {
        let two = |home: &mut Home| home.setups.push(Setup::new(SetupId::named("B"), "B", "Better", Vec::new()));
        let base = changed(two);
        let mine = changed(|home| {
            two(home);
            home.setups.reverse();
        });
        let theirs = changed(|home| {
            two(home);
            home.setups[0].why = "as it was found".into();
        });
        let merged = merge(&base, &mine, &theirs).unwrap();
        let told: Vec<(&str, &str)> = merged.setups.iter().map(|own| (own.letter.as_str(), own.why.as_str())).collect();
        assert_eq!(told, [("B", ""), ("A", "as it was found")]);
    }

    #[test]
    fn both_adding_keeps_both() {
        let add =
            |name: &str| changed(|home| home.setups.push(Setup::new(SetupId::named(name), name, name, Vec::new())));
        let merged = merge(&home(), &add("B"), &add("C")).unwrap();
        assert_eq!(merged.setups.len(), 3);
    }
}
