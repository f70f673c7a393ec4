//! A stand-in device on loopback that takes connections while it has power: what a drill's probe knocks at, with outages of known times,
//! a light, and a settings page.

use std::io::{Read, Write};
use std::net::{SocketAddr, TcpListener, TcpStream};
use std::sync::{Arc, Mutex, PoisonError};
use std::thread;
use std::time::{Duration, Instant};

/// How often it looks whether somebody knocks, or whether its power has changed.
const GLANCE: Duration = Duration::from_millis(10);
/// How long it waits for somebody to say what is asked.
const PATIENCE: Duration = Duration::from_secs(2);

/// What a device shows by its light.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Light {
    /// Dark: it has no power.
    Dark,
    /// It blinks slowly: it starts, and nothing of it answers yet.
    Starting,
    /// It blinks quickly: its page answers, and it looks for its way.
    Looking,
    /// It is steady.
    Steady,
}

impl Light {
    /// As its page and a person would say.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::Dark => "dark",
            Self::Starting => "blinks slowly: starting",
            Self::Looking => "blinks quickly: looking for the network",
            Self::Steady => "steady",
        }
    }
}

/// How long a device takes once it has power again.
#[derive(Debug, Clone, Copy, Default)]
pub struct Times {
    /// Until it answers.
    pub starts: Duration,
    /// From then until it has found its way.
    pub looks: Duration,
}

/// What its settings page says, told anew whenever somebody looks.
type Page = Arc<dyn Fn() -> String + Send + Sync>;

/// A device that can be switched off for a time.
#[derive(Clone)]
pub struct Device {
    address: SocketAddr,
    times: Times,
    off: Arc<Mutex<Option<(Instant, Instant)>>>,
    page: Arc<Mutex<Option<Page>>>,
}

impl Device {
    /// Begins to take connections here, until the program ends. It answers as soon as it has power.
    ///
    /// # Errors
    /// When the address can't be listened at.
    pub fn begin(listen: SocketAddr) -> std::io::Result<Self> {
        Self::begin_with(listen, Times::default())
    }

    /// The same, with times of its own.
    ///
    /// # Errors
    /// When the address can't be listened at.
    pub fn begin_with(listen: SocketAddr, times: Times) -> std::io::Result<Self> {
        let listener = TcpListener::bind(listen)?;
        listener.set_nonblocking(true)?;
        let device = Self { address: listener.local_addr()?, times, off: Arc::default(), page: Arc::default() };
        let own = device.clone();
        thread::Builder::new().name("stand-in device".into()).spawn(move || own.run(listener))?;
        Ok(device)
    }

    /// Gives it a settings page.
    pub fn show(&self, page: impl Fn() -> String + Send + Sync + 'static) {
        *self.page.lock().unwrap_or_else(PoisonError::into_inner) = Some(Arc::new(page));
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

    /// What its light shows now.
    #[must_use]
    pub fn light(&self) -> Light {
        let now = Instant::now();
        match *self.off.lock().unwrap_or_else(PoisonError::into_inner) {
            Some((from, until)) if from <= now && now < until => Light::Dark,
            Some((from, until)) if from <= now && now < until + self.times.starts => Light::Starting,
            Some((from, until)) if from <= now && now < until + self.times.starts + self.times.looks => Light::Looking,
            _ => Light::Steady,
        }
    }

    /// Whether its power was ever taken.
    #[must_use]
    pub fn was_off(&self) -> bool {
        let off = *self.off.lock().unwrap_or_else(PoisonError::into_inner);
        off.is_some_and(|(from, _)| from <= Instant::now())
    }

    fn answers(&self) -> bool {
        matches!(self.light(), Light::Looking | Light::Steady)
    }

    fn run(&self, listener: TcpListener) {
        let mut open = Some(listener);
        loop {
            match (&open, self.answers()) {
                (Some(listener), true) => {
                    while let Ok((stream, _)) = listener.accept() {
                        let page = self.page.lock().unwrap_or_else(PoisonError::into_inner).clone();
                        // Whoever knocks and says nothing must not keep the next one waiting.
                        thread::spawn(move || page.map(|page| answer(stream, &page())));
                    }
                }
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

/// Answers one request with a page, whatever was asked.
fn answer(mut stream: TcpStream, page: &str) -> std::io::Result<()> {
    stream.set_nonblocking(false)?;
    stream.set_read_timeout(Some(PATIENCE))?;
    let mut request = [0; 2048];
    if stream.read(&mut request)? == 0 {
        return Ok(());
    }
    let head = "HTTP/1.1 200 OK\r\nContent-Type: text/html; charset=utf-8\r\nConnection: close\r\n";
    stream.write_all(format!("{head}Content-Length: {}\r\n\r\n{page}", page.len()).as_bytes())
}

#[cfg(test)]
mod tests {
    use super::*;

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

    #[test]
    fn its_light_tells_how_far_it_is_and_its_page_says_what_it_is_told_to() {
        let times = Times { starts: Duration::from_millis(300), looks: Duration::from_millis(300) };
        let device = Device::begin_with("127.0.0.1:0".parse().expect("an address"), times).expect("a free port");
        let told = device.clone();
        device.show(move || format!("light {}", told.light().words()));
        let page = || -> std::io::Result<String> {
            let mut stream = TcpStream::connect_timeout(&device.address(), Duration::from_millis(200))?;
            stream.write_all(b"GET / HTTP/1.1\r\n\r\n")?;
            let mut text = String::new();
            stream.read_to_string(&mut text)?;
            Ok(text)
        };
        assert!(page().expect("a page").ends_with("light steady") && !device.was_off());
        device.off(Duration::ZERO, Duration::from_millis(200));
        let mut seen = vec![device.light()];
        let begun = Instant::now();
        while seen.last() != Some(&Light::Steady) {
            assert!(begun.elapsed() < Duration::from_secs(5), "{seen:?}");
            let now = device.light();
            if seen.last() != Some(&now) {
                seen.push(now);
            }
            thread::sleep(GLANCE);
        }
        assert_eq!(seen, [Light::Dark, Light::Starting, Light::Looking, Light::Steady]);
        assert!(device.was_off() && page().expect("a page").ends_with("light steady"));
    }
}
