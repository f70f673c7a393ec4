//! Stand-in kit that reports who serves a phone, to try things out.

use std::net::{SocketAddr, TcpListener};
use std::path::PathBuf;
use std::sync::Arc;

use busy_hen_formats::HomeFile;
use busy_hen_standins::fault::Fault;
use busy_hen_standins::kit::{Kit, serve};

/// Which kit, in which hidden house.
#[derive(Debug, clap::Args)]
pub struct Options {
    /// The home file.
    #[arg(value_name = "FILE")]
    home: PathBuf,
    /// Letter of the setup.
    #[arg(long, default_value = "A")]
    setup: String,
    /// Seed of the hidden house.
    #[arg(long, default_value_t = 14)]
    seed: u64,
    /// Address and port to listen on.
    #[arg(long, value_name = "ADDR", default_value = "127.0.0.1:8095")]
    listen: SocketAddr,
    /// Address and port of the first device; each has one of its own, with a page and a light, and can be switched off.
    #[arg(long, value_name = "ADDR")]
    devices: Option<SocketAddr>,
    /// How many times quicker than real kit its devices start.
    #[arg(long, default_value_t = 1.0, value_parser = quick)]
    quick: f64,
    /// What it does wrong: wrong-parent, guests, channel; may be given several times.
    #[arg(long, value_name = "FAULT")]
    fault: Vec<Fault>,
}

/// A factor that makes sense of time.
fn quick(text: &str) -> Result<f64, String> {
    let factor = text.parse::<f64>().ok().filter(|own| (0.1..=1000.0).contains(own));
    factor.ok_or_else(|| "from 0.1 to 1000 times".to_owned())
}

/// Serves until interrupted.
pub fn stand_in_kit(options: &Options) -> Result<(), String> {
    let at = options.home.display();
    let text = std::fs::read(&options.home).map_err(|error| format!("can't read {at}: {error}"))?;
    let file = HomeFile::read(&text).map_err(|faults| format!("{at}: {faults}"))?;
    let kit = Kit::new(file.home, &options.setup, options.seed).map_err(|error| error.to_string())?;
    let listen = options.listen;
    let listener = TcpListener::bind(listen)
        .map_err(|error| format!("can't listen on {listen}: {error}; choose another with --listen"))?;
    let address = listener.local_addr().map_err(|error| error.to_string())?;
    crate::terminal::tell(format_args!("The stand-in kit reports at http://{address}/report.json"));
    crate::terminal::tell("What it reports is made up and is taken for the stand-in phone alone.");
    for (name, address) in kit.addresses() {
        crate::terminal::tell(format_args!("{address}  {name}"));
    }
    let mut kit = kit.with_faults(&options.fault);
    if let Some(first) = options.devices {
        kit = kit.with_devices(first, options.quick).map_err(|error| {
            format!("the devices can't listen from {first} on: {error}; choose another with --devices")
        })?;
        for (name, device) in kit.devices() {
            crate::terminal::tell(format_args!("http://{}  page of {name}", device.address()));
        }
        crate::terminal::tell(format_args!("PUT http://{address}/off?device=NAME&for_ms=5000 takes the power of one"));
    }
    actix_web::rt::System::new()
        .block_on(serve(listener, Arc::new(kit)))
        .map_err(|error| format!("serving failed: {error}"))
}
