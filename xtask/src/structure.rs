//! How the code hangs together: which crate may use which, and that no files of a crate import each other in a circle.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;
use std::process::Command;
use std::{env, fs};

/// What each crate of the core may use of the others, and of whatever else the project has.
const ALLOWED: [(&str, &[&str]); 8] = [
    ("units", &[]),
    ("home", &["units"]),
    ("catalogue", &["home", "units"]),
    ("floorplan", &["catalogue", "home", "units"]),
    ("radio", &["catalogue", "floorplan", "home", "units"]),
    ("predict", &["catalogue", "floorplan", "home", "radio", "units"]),
    ("survey", &["catalogue", "floorplan", "home", "predict", "radio", "units"]),
    ("job", &["catalogue", "floorplan", "home", "predict", "radio", "survey", "units"]),
];
/// What does input or output, or has a clock of its own: no crate of the core reaches it.
const IMPURE: [&str; 6] = ["actix-web", "hyper", "reqwest", "socket2", "sqlx", "tokio"];
/// What only tests are made with; no crate of the core is built or tested with it.
const OF_TESTS: [&str; 3] = ["busy-hen-demo", "busy-hen-testkit", "busy-hen-standins"];

/// Everything that is wrong with the structure of the project at this root.
pub fn faults(root: &Path) -> Result<Vec<String>, String> {
    let mut list = Vec::new();
    for (own, allowed) in ALLOWED {
        let direct = tree(root, own, &["--edges", "normal", "--depth", "1"])?;
        let used = direct.iter().filter_map(|name| name.strip_prefix("busy-hen-"));
        let wrong = used.filter(|name| *name != own && !allowed.contains(name));
        list.extend(wrong.map(|name| format!("{own} may not use {name}")));
        let all = tree(root, own, &["--edges", "normal,dev"])?;
        list.extend(
            OF_TESTS.iter().filter(|name| all.contains(**name)).map(|name| format!("{own} is tested with {name}")),
        );
        let all = tree(root, own, &["--edges", "normal"])?;
        list.extend(IMPURE.iter().filter(|name| all.contains(**name)).map(|name| format!("{own} depends on {name}")));
    }
    let crates = fs::read_dir(root.join("crates")).map_err(|error| format!("crates: {error}"))?;
    for own in crates.flatten() {
        let sources = own.path().join("src");
        let name = own.file_name().to_string_lossy().into_owned();
        list.extend(
            circles(&modules(&sources)).into_iter().map(|circle| format!("{name}: a circle of {}", circle.join(", "))),
        );
    }
    list.sort();
    Ok(list)
}

/// Names of the packages in the tree under a crate.
fn tree(root: &Path, of: &str, how: &[&str]) -> Result<BTreeSet<String>, String> {
    let package = format!("busy-hen-{of}");
    let output = Command::new(env::var("CARGO").unwrap_or_else(|_| "cargo".into()))
        .args(["tree", "--locked", "--prefix", "none", "--package", &package])
        .args(how)
        .current_dir(root)
        .output()
        .map_err(|error| format!("cargo tree: {error}"))?;
    if !output.status.success() {
        return Err(format!("cargo tree of {package}: {}", String::from_utf8_lossy(&output.stderr)));
    }
    let text = String::from_utf8_lossy(&output.stdout);
    Ok(text.lines().filter_map(|line| line.split(' ').next()).map(str::to_owned).collect())
}

/// A module by its path from the root of the crate.
type Module = Vec<String>;

/// The text of each module of a crate that is a file of its own.
fn modules(sources: &Path) -> BTreeMap<Module, String> {
    fn collect(folder: &Path, at: &Module, found: &mut BTreeMap<Module, String>) {
        for entry in fs::read_dir(folder).into_iter().flatten().flatten() {
            let (path, name) = (entry.path(), entry.file_name().to_string_lossy().into_owned());
            if path.is_dir() {
                collect(&path, &[at.clone(), vec![name]].concat(), found);
            } else if let Some(stem) = name.strip_suffix(".rs") {
                let module = match stem {
                    "mod" | "lib" | "main" => at.clone(),
                    _ => [at.clone(), vec![stem.to_owned()]].concat(),
                };
                found.insert(module, fs::read_to_string(&path).unwrap_or_default());
            }
        }
    }
    let mut found = BTreeMap::new();
    collect(sources, &Vec::new(), &mut found);
    found
}

/// What a text says without comments and tests.
fn bare(text: &str) -> String {
    let code = text.split("#[cfg(test)]").next().unwrap_or_default();
    code.lines().map(|line| line.split("//").next().unwrap_or_default()).collect::<Vec<_>>().join("\n")
}

/// All paths that a tree of a `use` names, with whether it is handed on.
fn leaves(before: &[String], tree: &str, found: &mut Vec<Module>) {
    let tree = tree.trim();
    if let (Some(from), true) = (tree.find('{'), tree.ends_with('}')) {
        let before = [before, &parts(&tree[..from])].concat();
        let (mut depth, mut begun, inner) = (0, 0, &tree[from + 1..tree.len() - 1]);
        for (at, letter) in inner.char_indices() {
            match letter {
                '{' => depth += 1,
                '}' => depth -= 1,
                ',' if depth == 0 => {
                    leaves(&before, &inner[begun..at], found);
                    begun = at + 1;
                }
                _ => {}
            }
        }
        leaves(&before, &inner[begun..], found);
    } else if !tree.is_empty() {
        let path = tree.split(" as ").next().unwrap_or_default();
        found.push([before, &parts(path)].concat());
    }
}

fn parts(path: &str) -> Module {
    path.split("::").map(str::trim).filter(|part| !part.is_empty()).map(str::to_owned).collect()
}

/// Paths that a module names: those it hands on, and those it uses itself.
fn paths(text: &str) -> (Vec<Module>, Vec<Module>) {
    let (mut handed_on, mut used, mut rest) = (Vec::new(), Vec::new(), String::new());
    for statement in text.split_inclusive(';') {
        let (code, last) = match statement.rfind("\nuse ").or_else(|| statement.rfind("\npub use ")) {
            Some(at) => statement.split_at(at),
            None if statement.starts_with("use ") || statement.starts_with("pub use ") => ("", statement),
            None => match statement.find("use ").filter(|_| statement.trim_start().starts_with("pub(")) {
                Some(at) => statement.split_at(at),
                None => (statement, ""),
            },
        };
        rest.push_str(code);
        let last = last.trim().trim_end_matches(';');
        if let Some(tree) = last.strip_prefix("pub use ") {
            leaves(&[], tree, &mut handed_on);
        } else if let Some(tree) = last.strip_prefix("use ") {
            leaves(&[], tree, &mut used);
        }
    }
    let word = |letter: char| letter.is_alphanumeric() || letter == '_' || letter == ':';
    let named = rest.split(|letter| !word(letter)).filter(|path| path.contains("::"));
    used.extend(named.map(parts).filter(|path| path.len() > 1));
    (handed_on, used)
}

/// The module that a path leads to, through what modules hand on.
fn leads_to(
    path: &[String],
    from: &Module,
    modules: &BTreeMap<Module, String>,
    handed_on: &BTreeMap<Module, Vec<Module>>,
    depth: usize,
) -> Option<Module> {
    let up = path.iter().take_while(|part| *part == "super").count();
    let whole = match path.first()?.as_str() {
        "crate" => path[1..].to_vec(),
        "self" => [from.clone(), path[1..].to_vec()].concat(),
        "super" => [from.get(..from.len().checked_sub(up)?)?, &path[up..]].concat(),
        first => {
            let child = [from.clone(), vec![first.to_owned()]].concat();
            modules.get(&child)?;
            [from.clone(), path.to_vec()].concat()
        }
    };
    let end = (0..=whole.len()).rev().find(|end| modules.contains_key(&whole[..*end]))?;
    let module = whole[..end].to_vec();
    let Some(name) = whole.get(end) else { return Some(module) };
    let onward = handed_on.get(&module).and_then(|list| list.iter().find(|own| own.last() == Some(name)));
    match onward.filter(|_| depth < 8) {
        Some(onward) => leads_to(onward, &module, modules, handed_on, depth + 1).or(Some(module)),
        None => Some(module),
    }
}

/// Modules that import each other in a circle.
fn circles(modules: &BTreeMap<Module, String>) -> Vec<Vec<String>> {
    let named: BTreeMap<Module, (Vec<Module>, Vec<Module>)> =
        modules.iter().map(|(module, text)| (module.clone(), paths(&bare(text)))).collect();
    let handed_on: BTreeMap<Module, Vec<Module>> =
        named.iter().map(|(module, (handed_on, _))| (module.clone(), handed_on.clone())).collect();
    let arrows: BTreeMap<&Module, BTreeSet<Module>> = named
        .iter()
        .map(|(module, (_, used))| {
            let to = used.iter().filter_map(|path| leads_to(path, module, modules, &handed_on, 0));
            (module, to.filter(|to| to != module).collect())
        })
        .collect();
    let reached = |from: &Module| {
        let (mut seen, mut next) = (BTreeSet::new(), vec![from.clone()]);
        while let Some(at) = next.pop() {
            for to in arrows.get(&at).into_iter().flatten() {
                if seen.insert(to.clone()) {
                    next.push(to.clone());
                }
            }
        }
        seen
    };
    let all: BTreeMap<&Module, BTreeSet<Module>> = modules.keys().map(|module| (module, reached(module))).collect();
    let mut told: BTreeSet<Vec<String>> = BTreeSet::new();
    for (module, to) in all.iter().filter(|(module, to)| to.contains(**module)) {
        let together = to.iter().filter(|other| all.get(other).is_some_and(|back| back.contains(*module)));
        told.insert(together.map(|own| own.join("/")).collect());
    }
    told.into_iter().collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn of(files: &[(&str, &str)]) -> Vec<Vec<String>> {
        let module = |path: &str| parts(&path.replace('/', "::"));
        circles(&files.iter().map(|(path, text)| (module(path), (*text).to_owned())).collect())
    }

    #[test]
    fn files_that_import_each_other_are_found_also_through_what_is_handed_on() {
        let straight = [("", "mod a;\nmod b;\npub use a::A;\n"), ("a", "pub struct A;"), ("b", "use crate::A;\n")];
        assert!(of(&straight).is_empty());
        let circle =
            [("", "mod a;\nmod b;\npub use b::B;\n"), ("a", "use crate::B;\n"), ("b", "use super::a::{\n    A,\n};\n")];
        assert_eq!(of(&circle), [["a", "b"]]);
        let by_path = [("", "mod a;\nmod b;\n"), ("a", "fn f() { crate::b::g() }"), ("b", "fn g() { super::a::f() }")];
        assert_eq!(of(&by_path), [["a", "b"]]);
    }

    #[test]
    fn what_only_tests_and_comments_name_is_no_arrow() {
        let files = [
            ("", ""),
            ("a", "use super::b::B;\n"),
            ("b", "// super::a\n#[cfg(test)]\nmod tests {\n    use crate::a::A;\n}\n"),
        ];
        assert!(of(&files).is_empty());
    }
}
