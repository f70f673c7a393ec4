//! Stand-in kit that reports who serves a phone, to try things out.

use std::net::{SocketAddr, TcpListener};
use std::path::PathBuf;

use busy_hen_formats::HomeFile;
use busy_hen_standins::device::Device;
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
    /// Address and port of a device that takes connections and can be switched off, for drills to be timed by.
    #[arg(long, value_name = "ADDR")]
    device: Option<SocketAddr>,
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
    crate::tell(format_args!("The stand-in kit reports at http://{address}/report.json"));
    crate::tell("What it reports is made up and is taken for the stand-in phone alone.");
    for (name, address) in kit.addresses() {
        crate::tell(format_args!("{address}  {name}"));
    }
    let device = options.device.map(Device::begin).transpose();
    let device = device.map_err(|error| format!("the device can't listen: {error}; choose another with --device"))?;
    if let Some(device) = &device {
        crate::tell(format_args!(
            "A device takes connections at {}; PUT http://{address}/off?for_ms=5000 takes its power",
            device.address()
        ));
    }
    actix_web::rt::System::new()
        .block_on(serve(listener, kit, device))
        .map_err(|error| format!("serving failed: {error}"))
}
