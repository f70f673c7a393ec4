//! Words of typed lines: sides, and materials as people call them.

use busy_hen_home::Side;

use busy_hen_catalogue::materials;

/// The side that a word names.
pub(super) fn side_named(word: &str) -> Option<Side> {
    match word {
        "north" | "n" => Some(Side::North),
        "east" | "e" => Some(Side::East),
        "south" | "s" => Some(Side::South),
        "west" | "w" => Some(Side::West),
        _ => None,
    }
}

/// The word for a side.
#[must_use]
pub fn side_word(side: Side) -> &'static str {
    match side {
        Side::North => "north",
        Side::East => "east",
        Side::South => "south",
        Side::West => "west",
    }
}

/// What people call materials, the name that is written first for each: common practice.
const MATERIALS: [(&str, &[&str]); 24] = [
    ("plasterboard", &["stud", "plasterboard", "drywall", "stud wall", "partition", "timber frame"]),
    ("double_plasterboard", &["double stud", "double plasterboard", "two boards"]),
    ("block100", &["block", "aerated block", "breeze block", "blockwork"]),
    ("brick105", &["brick", "half brick", "single brick", "thin brick"]),
    ("brick215", &["thick brick", "double brick", "solid brick", "one brick"]),
    ("cavity", &["cavity", "cavity wall", "cavity brick"]),
    ("stone400", &["stone", "rubble", "thick stone"]),
    ("concrete100", &["thin concrete"]),
    ("concrete150", &["concrete"]),
    ("concrete200", &["thick concrete"]),
    ("rc200", &["reinforced concrete", "steel concrete"]),
    ("door", &["timber", "wood", "wooden", "solid"]),
    ("hollow_door", &["hollow", "hollow core", "light"]),
    ("metal_door", &["metal", "steel", "fire"]),
    ("glass", &["glass", "single glass", "single glazing", "glazed"]),
    ("dg", &["double glazing", "double glazed", "plain glazing"]),
    ("lowe", &["coated glazing", "coated glass", "coated", "low-e"]),
    ("foil", &["foil", "foil board", "foil insulation"]),
    ("mirror", &["mirror", "metal tile"]),
    ("timber_floor", &["timber floor", "wooden floor", "joists"]),
    ("timber_floor_ufh", &["heated timber floor", "foil floor"]),
    ("concrete_floor", &["concrete floor", "slab"]),
    ("ceiling", &["board ceiling", "loft boards"]),
    ("open", &["open", "none", "no wall"]),
];

/// Key of the material that people call so; its key and its name in the catalogue count too.
#[must_use]
pub fn material_called(words: &str) -> Option<&'static str> {
    let words = words.to_lowercase();
    let by_word = MATERIALS.iter().find(|(_, called)| called.contains(&words.as_str())).map(|(key, _)| *key);
    by_word.or_else(|| {
        materials::all()
            .iter()
            .find(|own| own.key == words || own.name.to_lowercase() == words)
            .map(|own| own.key.as_str())
    })
}

/// What a line calls a material: its first name, or its key.
#[must_use]
pub fn material_word(key: &str) -> &str {
    MATERIALS.iter().find(|(own, _)| *own == key).and_then(|(_, called)| called.first()).copied().unwrap_or(key)
}

/// The material whose name is most like these words; none when no name is near.
pub(super) fn material_like(words: &str) -> Option<&'static str> {
    let names = MATERIALS.iter().flat_map(|(_, called)| called.iter());
    names
        .map(|name| (strsim::jaro_winkler(name, &words.to_lowercase()), *name))
        .filter(|(likeness, _)| *likeness > 0.75)
        .max_by(|a, b| a.0.total_cmp(&b.0))
        .map(|(_, name)| name)
}
