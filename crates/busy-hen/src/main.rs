//! The program: one command an activity.

mod demo;
mod far_end;
mod predict;
mod probe;
mod serve;
mod stand_in_kit;
mod terminal;
mod watch;

use std::net::SocketAddr;
use std::path::PathBuf;
use std::process::ExitCode;

use busy_hen_server::FarEnd;
use busy_hen_standins::line::Line;
use clap::{Parser, Subcommand};

/// Plans, predicts, tests and compares home Wi-Fi, room by room.
///
/// Busy Hen keeps the jobs of a Wi-Fi installer in one file and serves the workbench for them to a browser. Its predictions are
/// estimates, not certification.
#[derive(Debug, Parser)]
#[command(version, about)]
struct Arguments {
    #[command(subcommand)]
    command: Command,
}

#[derive(Debug, Subcommand)]
enum Command {
    /// Serve the workbench to a browser until interrupted.
    Serve {
        /// Database file; made when it is not there.
        #[arg(long, value_name = "FILE", default_value = "busy-hen.db")]
        data: PathBuf,
        /// Address and port to listen on; port 0 takes any free one. The address is printed.
        #[arg(long, value_name = "ADDR", default_value = "127.0.0.1:8080")]
        listen: SocketAddr,
        /// When the database holds no home, put the made-up demo homes in.
        #[arg(long)]
        demo: bool,
        /// Milliseconds between two runs of the simulated stand-in phone.
        #[arg(long, value_name = "MS", default_value_t = 150)]
        walk_pace: u64,
        /// Let other machines reach it, where --listen does. The bench then asks for a pass phrase; phones get in by their codes. The link
        /// is not encrypted.
        #[arg(long)]
        open_to_network: bool,
        /// Forget the pass phrase, so that a new one can be set on this machine.
        #[arg(long)]
        forget_pass_phrase: bool,
        /// The far end that internet tests go to, as `busy-hen far-end` prints it.
        #[arg(long, value_name = "URL#TOKEN")]
        far_end: Option<FarEnd>,
        /// Certificate chain in PEM form, of an authority that the phones trust; the link is then encrypted, and phones may keep the page
        /// for where there is no connection.
        #[arg(long, value_name = "FILE", requires = "tls_key")]
        tls_cert: Option<PathBuf>,
        /// Private key of that certificate in PEM form.
        #[arg(long, value_name = "FILE", requires = "tls_cert")]
        tls_key: Option<PathBuf>,
        /// A host name that leads here, besides localhost; may be given several times.
        #[arg(long, value_name = "NAME")]
        name: Vec<String>,
    },
    /// Serve tests from a place beyond the line, so that an internet test is the same measurement to another address.
    FarEnd {
        /// Address and port to listen on.
        #[arg(long, value_name = "ADDR", default_value = "127.0.0.1:8090")]
        listen: SocketAddr,
        /// The token that tests must name; a new one when left out. It is printed.
        #[arg(long)]
        token: Option<String>,
        /// Stand behind a stand-in line, to try things out: rates down and up in Mb/s, delay one way and queue in ms, then if wanted
        /// `managed` and the part of the rates that an evening leaves.
        #[arg(long, value_name = "300/40,8,120,managed,evening=0.4")]
        stand_in_line: Option<Line>,
        /// Where the plug of that line is pulled: `PUT /pull?for_ms=..`, with `&second_after_ms=..` for a second line that takes over.
        #[arg(long, value_name = "ADDR", requires = "stand_in_line")]
        plug: Option<SocketAddr>,
    },
    /// Test from a shell to a bench or a far end and print the figures: the ceiling of a wired machine.
    Probe {
        /// Address with its token, as the bench shows for a phone or a far end prints it.
        #[arg(value_name = "URL#TOKEN")]
        address: String,
        /// Keep it as a run at this spot of the round that the token is for.
        #[arg(long, value_name = "NAME")]
        spot: Option<String>,
        /// Where the cable ends, such as "the router" or "the box of the line", in a round of the wired ceiling.
        #[arg(long, value_name = "NAME", requires = "spot")]
        mark: Option<String>,
        /// Print JSON.
        #[arg(long)]
        json: bool,
    },
    /// Watch a home for days, from a machine that stays in it: what answers, how soon, and when it does not.
    Watch(watch::Options),
    /// Report who serves a phone as kit may, made up by a hidden house, to try things out.
    StandInKit(stand_in_kit::Options),
    /// Print what a home file's rooms, or one place, get by prediction. Needs neither server nor database.
    Predict(predict::Options),
    /// Print the JSON Schema of the home file.
    Schema,
    /// Write a made-up demo home as a home file to standard output.
    Example,
    /// Print the OpenAPI description of the HTTP interface as JSON.
    Openapi,
}

/// Gives memory back that one thread took and let go of, however many threads there are; the system's own keeps it for each of them.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// What is logged unless it is said otherwise: what is wrong, and each time that the bench is opened to the network or closed.
const LOG: &str = "warn,busy_hen_server::network=info";

fn main() -> ExitCode {
    tracing_subscriber::fmt()
        .with_env_filter(tracing_subscriber::EnvFilter::try_from_default_env().unwrap_or_else(|_| LOG.into()))
        .with_writer(std::io::stderr)
        .init();
    let result = match Arguments::parse().command {
        Command::Serve {
            data,
            listen,
            demo,
            walk_pace,
            open_to_network,
            forget_pass_phrase,
            far_end,
            tls_cert,
            tls_key,
            name: names,
        } => {
            let walk_pace = std::time::Duration::from_millis(walk_pace);
            serve::serve(&serve::Options {
                data,
                listen,
                demo,
                walk_pace,
                open_to_network,
                forget_pass_phrase,
                far_end,
                tls: tls_cert.zip(tls_key),
                names,
            })
        }
        Command::FarEnd { listen, token, stand_in_line, plug } => {
            far_end::far_end(listen, token, stand_in_line.map(|line| (line, plug)))
        }
        Command::Probe { address, spot, mark, json } => {
            probe::probe(&probe::Options { address, spot, mark, json }).map(|text| print!("{text}"))
        }
        Command::Watch(options) => watch::watch(&options),
        Command::StandInKit(options) => stand_in_kit::stand_in_kit(&options),
        Command::Predict(options) => predict::predict(&options).map(|text| print!("{text}")),
        Command::Schema => schema(),
        Command::Example => example(),
        Command::Openapi => openapi(),
    };
    match result {
        Ok(()) => ExitCode::SUCCESS,
        Err(message) => {
            eprintln!("busy-hen: {message}");
            ExitCode::from(2)
        }
    }
}

fn openapi() -> Result<(), String> {
    let text = busy_hen_server::openapi().to_pretty_json().map_err(|error| error.to_string())?;
    println!("{text}");
    Ok(())
}

fn schema() -> Result<(), String> {
    let schema = busy_hen_formats::home_file_schema().map_err(|error| error.to_string())?;
    println!("{}", serde_json::to_string_pretty(&schema).map_err(|error| error.to_string())?);
    Ok(())
}

fn example() -> Result<(), String> {
    let file = busy_hen_formats::HomeFile::new(busy_hen_demo::canal_terrace(), Vec::new());
    print!("{}", file.to_text().map_err(|error| error.to_string())?);
    Ok(())
}
