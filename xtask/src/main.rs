//! The project's commands. Standard library only, so that they start in seconds on a clean machine.
//!
//! - `cargo xtask demo`: installs, builds and starts the application with its demo data;
//! - `cargo xtask test`: installs what the browser tests need, builds, and runs all tests;
//! - `cargo xtask check`: formatting, lints, types and generated files, as CI wants them;
//! - `cargo xtask structure`: that part of it which holds crates and files to their arrows, in seconds;
//! - `cargo xtask api`: writes the OpenAPI description, the front end's types and the schema of the home file anew;
//! - `cargo xtask bench`: how long a map, a drag step, opening a home, `predict` and the first paint take;
//! - `cargo xtask soak`: attacks and loads that take minutes, held to their bars on a machine that does nothing else;
//! - `cargo xtask pictures`: draws what MODEL.md shows of predictions against readings and traced houses;
//! - `cargo xtask screenshots`: takes the pictures of the docs anew.

mod structure;

use std::path::{Path, PathBuf};
use std::process::{Command, ExitCode};
use std::time::{Instant, SystemTime};
use std::{env, fs};

/// What stopped a command, told to the user.
type Failure = String;

fn main() -> ExitCode {
    let asked: Vec<String> = env::args().skip(1).collect();
    let result = match asked.first().map(String::as_str) {
        Some("demo") => demo(&asked[1..]),
        Some("test") => test(&asked[1..]),
        Some("check") => check(),
        Some("structure") => structure_is_sound(),
        Some("api") => api(),
        Some("bench") => bench(),
        Some("soak") => soak(),
        Some("pictures") => pictures(),
        Some("screenshots") => screenshots(),
        _ => Err("say what: demo, test, check, structure, api, bench, soak, pictures or screenshots".into()),
    };
    match result {
        Ok(()) => ExitCode::SUCCESS,
        Err(message) => {
            eprintln!("xtask: {message}");
            ExitCode::FAILURE
        }
    }
}

fn pictures() -> Result<(), Failure> {
    cargo(&["run", "--locked", "--package", "busy-hen-standins", "--example", "calibration_picture"])
}

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("..")
}

fn web() -> PathBuf {
    root().join("web")
}

/// Runs a command to its end, showing it.
fn run(command: &mut Command) -> Result<(), Failure> {
    let line = format!("{command:?}").replace('"', "");
    println!("xtask: {line}");
    match command.status() {
        Ok(status) if status.success() => Ok(()),
        Ok(status) => Err(format!("{line}: {status}")),
        Err(error) => Err(format!("{line} could not be started: {error}")),
    }
}

fn cargo(arguments: &[&str]) -> Result<(), Failure> {
    run(Command::new(env::var("CARGO").unwrap_or_else(|_| "cargo".into())).args(arguments).current_dir(root()))
}

fn npm(arguments: &[&str]) -> Result<(), Failure> {
    run(Command::new("npm").args(arguments).current_dir(web()))
}

/// Installs the front-end packages when the lock file differs from the one of the last install, and builds the front end when a
/// source is newer than the last build.
fn front_end() -> Result<(), Failure> {
    install_packages()?;
    let built = modified(&web().join("dist/index.html"));
    let sources = ["src", "public", "index.html", "package-lock.json", "vite.config.ts"];
    let newest = sources.iter().filter_map(|name| newest(&web().join(name))).max();
    if built.is_none() || newest > built {
        npm(&["run", "--silent", "build"])?;
        // The server embeds what was built; its crate does not see new files by itself.
        let embedder = root().join("crates/server/src/assets.rs");
        let now = SystemTime::now();
        fs::File::options()
            .write(true)
            .open(&embedder)
            .and_then(|file| file.set_modified(now))
            .map_err(|error| format!("{} could not be touched: {error}", embedder.display()))?;
    }
    Ok(())
}

fn install_packages() -> Result<(), Failure> {
    let lock = fs::read(web().join("package-lock.json")).map_err(|error| format!("package-lock.json: {error}"))?;
    let kept = web().join("node_modules/.installed-lock.json");
    if fs::read(&kept).is_ok_and(|kept| kept == lock) {
        return Ok(());
    }
    npm(&["ci"])?;
    fs::write(&kept, lock).map_err(|error| format!("{}: {error}", kept.display()))
}

fn modified(path: &Path) -> Option<SystemTime> {
    fs::metadata(path).and_then(|metadata| metadata.modified()).ok()
}

/// When the newest file of a tree was changed.
fn newest(path: &Path) -> Option<SystemTime> {
    if !path.is_dir() {
        return modified(path);
    }
    let entries = fs::read_dir(path).ok()?;
    entries.filter_map(|entry| newest(&entry.ok()?.path())).max()
}

fn demo(arguments: &[String]) -> Result<(), Failure> {
    front_end()?;
    cargo(&["build", "--locked", "--package", "busy-hen"])?;
    fs::create_dir_all(root().join("data")).map_err(|error| format!("data: {error}"))?;
    let program = target().join("debug/busy-hen");
    run(Command::new(program).args(["serve", "--demo", "--data", "data/demo.db"]).args(arguments).current_dir(root()))
}

fn target() -> PathBuf {
    env::var_os("CARGO_TARGET_DIR").map_or_else(|| root().join("target"), PathBuf::from)
}

/// What tests need, all of it with the same features, so that nothing is built twice.
const ALL: [&str; 5] = ["--workspace", "--bins", "--lib", "--tests", "--locked"];

fn build_all() -> Result<(), Failure> {
    cargo(&[&["build"], &ALL[..]].concat())
}

/// Processors of this machine; tests wait for browsers and lines at times, so one more than these run at once.
fn cores() -> usize {
    std::thread::available_parallelism().map_or(2, std::num::NonZero::get)
}

fn test(arguments: &[String]) -> Result<(), Failure> {
    install_browser()?;
    install_regulatory_database()?;
    front_end()?;
    // Tests of the interface run the program, whose crate they are not of.
    build_all()?;
    let mut all = Command::new(env::var("CARGO").unwrap_or_else(|_| "cargo".into()));
    all.arg("test").args(ALL).args(arguments).current_dir(root());
    if env::var_os("RUST_TEST_THREADS").is_none() {
        all.env("RUST_TEST_THREADS", (cores() + 1).to_string());
    }
    run(&mut all)?;
    cargo(&["test", "--locked", "--package", "busy-hen-units", "--doc"])
}

/// Installs Debian's Chromium and ChromeDriver when they are missing.
fn install_browser() -> Result<(), Failure> {
    let there = |name: &str| Command::new(name).arg("--version").output().is_ok_and(|output| output.status.success());
    if there("chromium") && there("chromedriver") {
        return Ok(());
    }
    install(&["chromium", "chromium-driver"])
}

/// Installs the radio rules of the world that the tests compare ours with, when they are missing.
fn install_regulatory_database() -> Result<(), Failure> {
    if Path::new("/lib/firmware/regulatory.db-debian").exists() { Ok(()) } else { install(&["wireless-regdb"]) }
}

/// Installs Debian's packages.
fn install(packages: &[&str]) -> Result<(), Failure> {
    let apt = |arguments: &[&str]| {
        let root = Command::new("id").arg("-u").output().is_ok_and(|output| output.stdout.starts_with(b"0\n"));
        let mut command = if root { Command::new("apt-get") } else { Command::new("sudo") };
        if !root {
            command.arg("apt-get");
        }
        run(command.args(arguments).env("DEBIAN_FRONTEND", "noninteractive"))
    };
    apt(&["update"])?;
    apt(&[&["install", "--yes", "--no-install-recommends"], packages].concat())
}

fn check() -> Result<(), Failure> {
    install_packages()?;
    cargo(&["fmt", "--all", "--check"])?;
    npm(&["run", "--silent", "typecheck"])?;
    npm(&["run", "--silent", "lint"])?;
    front_end()?;
    cargo(&["clippy", "--workspace", "--all-targets", "--locked", "--", "--deny", "warnings"])?;
    structure_is_sound()?;
    api_is_current()
}

/// Crates use what they may, the core is pure, and no files go round in a circle.
fn structure_is_sound() -> Result<(), Failure> {
    let faults = structure::faults(&root())?;
    if faults.is_empty() { Ok(()) } else { Err(faults.join("\n")) }
}

/// What is made from the types of the program: the command that prints it, and the file it is committed as.
const MADE: [(&str, &str); 2] = [("openapi", "web/openapi.json"), ("schema", "docs/home-file.schema.json")];

/// What the program prints when asked for this.
fn printed(what: &str) -> Result<Vec<u8>, Failure> {
    build_all()?;
    let output = Command::new(target().join("debug/busy-hen"))
        .arg(what)
        .output()
        .map_err(|error| format!("busy-hen {what}: {error}"))?;
    Ok(output.stdout)
}

fn api() -> Result<(), Failure> {
    install_packages()?;
    for (what, file) in MADE {
        fs::write(root().join(file), printed(what)?).map_err(|error| format!("{file}: {error}"))?;
    }
    npm(&["run", "--silent", "api-types"])
}

fn api_is_current() -> Result<(), Failure> {
    let stale = |file: &str| format!("{file} is not current; run `cargo xtask api` and commit");
    for (what, file) in MADE {
        if fs::read(root().join(file)).ok() != Some(printed(what)?) {
            return Err(stale(file));
        }
    }
    let types = web().join("src/api/schema.d.ts");
    let committed = fs::read(&types).map_err(|error| format!("{}: {error}", types.display()))?;
    npm(&["run", "--silent", "api-types"])?;
    let made = fs::read(&types).map_err(|error| format!("{}: {error}", types.display()))?;
    if made == committed { Ok(()) } else { Err(stale("web/src/api/schema.d.ts")) }
}

fn bench() -> Result<(), Failure> {
    install_browser()?;
    front_end()?;
    cargo(&[
        "bench",
        "--locked",
        "--package",
        "busy-hen-checks",
        "--bench",
        "relight",
        "--bench",
        "map",
        "--bench",
        "what_if",
    ])?;
    cargo(&["bench", "--locked", "--package", "busy-hen-server", "--bench", "open_home"])?;
    cargo(&["build", "--release", "--locked", "--package", "busy-hen", "--package", "busy-hen-e2e"])?;
    predict_time()?;
    run(&mut Command::new(target().join("release/first_paint")))
}

/// What takes minutes: the release build under attack and load, the readers of files with many times the cases that tests give them, what views
/// say of a hundred homes, and how near tests from a shell and a phone come to what a line lets through.
fn soak() -> Result<(), Failure> {
    front_end()?;
    cargo(&["build", "--release", "--locked", "--package", "busy-hen", "--package", "busy-hen-e2e"])?;
    run(&mut Command::new(target().join("release/soak")))?;
    let longer = |package: &str, tests: &str, (name, value): (&str, &str)| {
        let words = ["test", "--release", "--locked", "--package", package, "--tests", tests];
        let mut cargo = Command::new(env::var("CARGO").unwrap_or_else(|_| "cargo".into()));
        run(cargo.args(words).current_dir(root()).env(name, value))
    };
    longer("busy-hen-formats", "home_file", ("PROPTEST_CASES", "20000"))?;
    longer("busy-hen-server", "agree", ("AGREE_HOMES", "100"))?;
    longer("busy-hen", "phones", ("QUIET_MACHINE", "1"))?;
    longer("busy-hen-e2e", "what_a_line_lets_through", ("QUIET_MACHINE", "1"))
}

/// From the start of `busy-hen predict` to all rooms of the demo home printed, setup by setup.
fn predict_time() -> Result<(), Failure> {
    let program = target().join("release/busy-hen");
    let file = target().join("example.json");
    let ask = |arguments: &[&str]| -> Result<Vec<u8>, Failure> {
        let output = Command::new(&program).args(arguments).output();
        let output = output.map_err(|error| format!("{}: {error}", program.display()))?;
        if output.status.success() { Ok(output.stdout) } else { Err(String::from_utf8_lossy(&output.stderr).into()) }
    };
    fs::write(&file, ask(&["example"])?).map_err(|error| format!("{}: {error}", file.display()))?;
    let file = file.display().to_string();
    for setup in ["A", "B", "C"] {
        let mut took = Vec::new();
        for _ in 0..21 {
            let begun = Instant::now();
            ask(&["predict", &file, "--setup", setup])?;
            took.push(begun.elapsed());
        }
        took.sort();
        println!("predict, all rooms, setup {setup}: median {:.1?}, longest {:.1?} of 21", took[10], took[20]);
    }
    Ok(())
}

fn screenshots() -> Result<(), Failure> {
    install_browser()?;
    front_end()?;
    cargo(&["build", "--workspace", "--all-targets", "--locked"])?;
    cargo(&["run", "--quiet", "--locked", "--package", "busy-hen-e2e", "--bin", "screenshots"])
}
