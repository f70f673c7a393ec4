//! A stand-in device on loopback that takes connections while it has power: what a drill's probe knocks at, with outages of known times.

use std::net::{SocketAddr, TcpListener};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread;
use std::time::{Duration, Instant};

/// How often it looks whether somebody knocks, or whether its power has changed.
const GLANCE: Duration = Duration::from_millis(10);

/// A device that can be switched off for a time.
#[derive(Debug, Clone)]
pub struct Device {
    address: SocketAddr,
    off: Arc<Mutex<Option<(Instant, Instant)>>>,
}

impl Device {
    /// Begins to take connections here, until the program ends.
    ///
    /// # Errors
    /// When the address can't be listened at.
    pub fn begin(listen: SocketAddr) -> std::io::Result<Self> {
        let listener = TcpListener::bind(listen)?;
        listener.set_nonblocking(true)?;
        let device = Self { address: listener.local_addr()?, off: Arc::default() };
        let own = device.clone();
        thread::Builder::new().name("stand-in device".into()).spawn(move || own.run(listener))?;
        Ok(device)
    }

    /// Where it is.
    #[must_use]
    pub fn address(&self) -> SocketAddr {
        self.address
    }

    /// Takes its power away after a while, for as long.
    pub fn off(&self, after: Duration, during: Duration) {
        let from = Instant::now() + after;
        *self.off.lock().unwrap_or_else(PoisonError::into_inner) = Some((from, from + during));
    }

    fn is_on(&self) -> bool {
        let now = Instant::now();
        let off = *self.off.lock().unwrap_or_else(PoisonError::into_inner);
        off.is_none_or(|(from, until)| now < from || now >= until)
    }

    fn run(&self, listener: TcpListener) {
        let mut open = Some(listener);
        loop {
            match (&open, self.is_on()) {
                // Whoever knocks is let in and sent off; nothing is said.
                (Some(listener), true) => while listener.accept().is_ok() {},
                (Some(_), false) => open = None,
                (None, true) => {
                    open = TcpListener::bind(self.address).ok().filter(|own| own.set_nonblocking(true).is_ok());
                }
                (None, false) => {}
            }
            thread::sleep(GLANCE);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::net::TcpStream;

    #[test]
    fn it_answers_but_while_it_is_off() {
        let device = Device::begin("127.0.0.1:0".parse().expect("an address")).expect("a free port");
        let answers = || TcpStream::connect_timeout(&device.address(), Duration::from_millis(200)).is_ok();
        let until = |wanted: bool| {
            let begun = Instant::now();
            while answers() != wanted {
                assert!(begun.elapsed() < Duration::from_secs(5), "it never was {wanted}");
                thread::sleep(GLANCE);
            }
            begun.elapsed()
        };
        assert!(answers());
        device.off(Duration::ZERO, Duration::from_millis(700));
        until(false);
        assert!(until(true) > Duration::from_millis(300));
    }
}
