//! A stand-in line: a relay that lets through what a line of some rate, delay and queue lets through. One queue in each direction,
//! shared by all connections, as in a real access line.

use std::io;
use std::net::{IpAddr, Ipv4Addr, SocketAddr};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use busy_hen_units::{MbitPerSec, Millis};
use jiff::Timestamp;
use jiff::tz::TimeZone;
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::tcp::{OwnedReadHalf, OwnedWriteHalf};
use tokio::net::{TcpListener, TcpSocket, TcpStream};
use tokio::sync::{mpsc, watch};
use tokio::time::{Instant, sleep_until};

/// Buffer of each socket, bytes: small, so that what waits does so in the queue of the line and not in front of it.
const SOCKET_BUFFER: u32 = 64 * 1024;
/// What is taken from a connection at once, bytes: what passes in this time, within these bounds.
const PART_MS: f64 = 5.0;
const PART: (usize, usize) = (3000, 16 * 1024);
/// The clock that wakes a task ticks this coarsely; a single packet, by which delays are told, is waited for more finely.
const TICK: Duration = Duration::from_millis(2);
/// What is no larger than this enters the queue however full it is, bytes: a packet of its own.
const PACKET: usize = 1500;
/// Parts on the way to one connection.
const ON_THE_WAY: usize = 4096;

/// What a line lets through in one direction.
#[derive(Debug, Clone, Copy)]
pub struct Direction {
    /// Rate.
    pub rate: MbitPerSec,
    /// How long the queue gets under load.
    pub queue: Millis,
}

/// A line.
#[derive(Debug, Clone, Copy)]
pub struct Line {
    /// Towards the home.
    pub down: Direction,
    /// From the home.
    pub up: Direction,
    /// Delay one way, without queue.
    pub delay: Millis,
    /// Whether the queue is managed: then a connection that sends little does not wait behind those that send much.
    pub managed: bool,
    /// Part of the rate that is left in the evening, 0 to 1: the neighbourhood shares what lies behind the line.
    pub evening: f64,
}

impl std::str::FromStr for Line {
    type Err = String;

    /// Reads a line as `300/40,8,120,managed,evening=0.4`: rates down and up in Mb/s, delay one way and queue in ms.
    fn from_str(text: &str) -> Result<Self, String> {
        let wrong = || format!("“{text}” is no line, such as 300/40,8,120 or 300/40,8,120,managed,evening=0.4");
        let number = |text: &str| text.trim().parse::<f64>().ok().filter(|own| own.is_finite() && *own >= 0.0);
        let mut parts = text.split(',');
        let (down, up) = parts.next().and_then(|rates| rates.split_once('/')).ok_or_else(wrong)?;
        let mut next = || parts.next().and_then(number).ok_or_else(wrong);
        let (delay, queue) = (next()?, next()?);
        let rate = |text: &str| number(text).filter(|rate| *rate > 0.0).ok_or_else(wrong);
        let direction = |rate| Direction { rate: MbitPerSec::new(rate), queue: Millis::new(queue) };
        let mut line = Self {
            down: direction(rate(down)?),
            up: direction(rate(up)?),
            delay: Millis::new(delay),
            managed: false,
            evening: 1.0,
        };
        for part in parts {
            match part.trim().split_once('=') {
                None if part.trim() == "managed" => line.managed = true,
                Some(("evening", part)) => {
                    line.evening = number(part).filter(|part| (0.01..=1.0).contains(part)).ok_or_else(wrong)?;
                }
                _ => return Err(wrong()),
            }
        }
        Ok(line)
    }
}

/// Hours of the day that are evening.
const EVENING: std::ops::Range<i8> = 19..23;

/// Part of the rate that a line has at this hour.
fn part_at(hour: i8, evening: f64) -> f64 {
    if EVENING.contains(&hour) { evening.clamp(0.01, 1.0) } else { 1.0 }
}

/// The bottleneck of one direction: when all that was taken so far will have left.
#[derive(Debug)]
struct Bottleneck {
    direction: Direction,
    delay: Duration,
    managed: bool,
    evening: f64,
    free_at: Mutex<Instant>,
}

impl Bottleneck {
    fn new(direction: Direction, line: &Line) -> Self {
        Self {
            direction,
            delay: span(line.delay),
            managed: line.managed,
            evening: line.evening,
            free_at: Mutex::new(Instant::now()),
        }
    }

    /// When this many bytes arrive at the other end; none while the queue is full.
    fn enter(&self, bytes: usize) -> Option<Instant> {
        let now = Instant::now();
        let part = part_at(TimeZone::system().to_datetime(Timestamp::now()).hour(), self.evening);
        let takes = Duration::from_secs_f64(bytes as f64 * 8.0 / (self.direction.rate.get() * part * 1e6));
        let mut free_at = self.free_at.lock().unwrap_or_else(PoisonError::into_inner);
        let backlog = free_at.saturating_duration_since(now);
        let single = bytes <= PACKET;
        if backlog >= span(self.direction.queue) && !single {
            return None;
        }
        *free_at = now.max(*free_at) + takes;
        let leaves = if self.managed && single { now + takes } else { *free_at };
        Some(leaves + self.delay)
    }
}

fn span(ms: Millis) -> Duration {
    Duration::from_secs_f64(ms.get().max(0.0) / 1000.0)
}

/// Where the second line comes from: another address of loopback, as a second line has another public one.
const SECOND: IpAddr = IpAddr::V4(Ipv4Addr::new(127, 0, 0, 2));

/// What carries now.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Carrier {
    First,
    Dead,
    Second,
}

/// A hand at the plug of a stand-in line: pulls it, and has a second one take over and give back.
#[derive(Debug, Clone)]
pub struct Plug(Arc<watch::Sender<Carrier>>);

impl Default for Plug {
    fn default() -> Self {
        Self(Arc::new(watch::channel(Carrier::First).0))
    }
}

impl Plug {
    /// Pulls the line after a while, for as long; a second line takes over so long after the pull, where it is to.
    pub async fn pull(&self, after: Duration, during: Duration, second_after: Option<Duration>) {
        tokio::time::sleep(after).await;
        self.0.send_replace(Carrier::Dead);
        let dead = second_after.unwrap_or(during).min(during);
        tokio::time::sleep(dead).await;
        if dead < during {
            self.0.send_replace(Carrier::Second);
            tokio::time::sleep(during - dead).await;
        }
        self.0.send_replace(Carrier::First);
    }
}

/// What carries a connection: it stands still while something else does, as one does whose way is gone.
#[derive(Clone)]
struct Way {
    own: Carrier,
    now: watch::Receiver<Carrier>,
}

impl Way {
    /// The way that is there, or the next that is.
    async fn found(plug: &Plug) -> Self {
        let mut now = plug.0.subscribe();
        let own = now.wait_for(|carrier| *carrier != Carrier::Dead).await.map_or(Carrier::First, |own| *own);
        Self { own, now }
    }

    async fn stands(&mut self) {
        let own = self.own;
        // Nobody at the plug any more: it stays as it is.
        let _ = self.now.wait_for(|carrier| *carrier == own).await;
    }
}

impl Line {
    /// Relays connections to this address for as long as it is polled.
    ///
    /// # Errors
    /// When no connection can be taken any more.
    pub async fn relay(self, listener: TcpListener, to: SocketAddr) -> io::Result<()> {
        self.relay_by(listener, to, &Plug::default()).await
    }

    /// The same, with a hand at its plug.
    ///
    /// # Errors
    /// When no connection can be taken any more.
    pub async fn relay_by(self, listener: TcpListener, to: SocketAddr, plug: &Plug) -> io::Result<()> {
        let down = Arc::new(Bottleneck::new(self.down, &self));
        let up = Arc::new(Bottleneck::new(self.up, &self));
        loop {
            let (near, _) = listener.accept().await?;
            let (down, up, plug) = (Arc::clone(&down), Arc::clone(&up), plug.clone());
            tokio::spawn(async move {
                // A connection that ends or breaks takes its other half with it; the line goes on.
                let _ = connect((near, to), Way::found(&plug).await, down, up).await;
            });
        }
    }
}

async fn connect(
    (near, to): (TcpStream, SocketAddr),
    way: Way,
    down: Arc<Bottleneck>,
    up: Arc<Bottleneck>,
) -> io::Result<()> {
    let socket = if to.is_ipv4() { TcpSocket::new_v4()? } else { TcpSocket::new_v6()? };
    socket.set_recv_buffer_size(SOCKET_BUFFER)?;
    socket.set_send_buffer_size(SOCKET_BUFFER)?;
    if way.own == Carrier::Second && to.ip().is_loopback() {
        socket.bind(SocketAddr::new(SECOND, 0))?;
    }
    let far = socket.connect(to).await?;
    near.set_nodelay(true)?;
    far.set_nodelay(true)?;
    let ((near_in, near_out), (far_in, far_out)) = (near.into_split(), far.into_split());
    tokio::select! {
        done = carry(near_in, far_out, up, way.clone()) => done,
        done = carry(far_in, near_out, down, way) => done,
    }
}

/// Carries bytes one way until their source ends.
async fn carry(
    mut from: OwnedReadHalf,
    mut to: OwnedWriteHalf,
    bottleneck: Arc<Bottleneck>,
    mut way: Way,
) -> io::Result<()> {
    let (sender, mut receiver) = mpsc::channel::<(Instant, Vec<u8>)>(ON_THE_WAY);
    // Owns its end of the channel, so that the other side ends with it.
    let take = async move {
        let passes = bottleneck.direction.rate.get() * PART_MS * 125.0;
        let mut part = vec![0; (passes as usize).clamp(PART.0, PART.1)];
        loop {
            let read = from.read(&mut part).await?;
            if read == 0 {
                return Ok::<_, io::Error>(());
            }
            way.stands().await;
            let arrives = loop {
                match bottleneck.enter(read) {
                    Some(arrives) => break arrives,
                    None => tokio::time::sleep(Duration::from_millis(1)).await,
                }
            };
            if sender.send((arrives, part[..read].to_vec())).await.is_err() {
                return Ok(());
            }
        }
    };
    let give = async {
        while let Some((arrives, bytes)) = receiver.recv().await {
            if bytes.len() > PACKET {
                sleep_until(arrives).await;
            } else {
                sleep_until(arrives.checked_sub(TICK).unwrap_or(arrives)).await;
                while Instant::now() < arrives {
                    tokio::task::yield_now().await;
                }
            }
            to.write_all(&bytes).await?;
        }
        to.shutdown().await
    };
    let (taken, given) = tokio::join!(take, give);
    taken.and(given)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn line(managed: bool) -> Line {
        let direction = Direction { rate: MbitPerSec::new(40.0), queue: Millis::new(80.0) };
        Line { down: direction, up: direction, delay: Millis::new(5.0), managed, evening: 1.0 }
    }

    #[test]
    fn a_line_is_read_as_it_is_typed_or_refused() {
        let line: Line = "300/40,8,120,managed,evening=0.4".parse().unwrap();
        assert!(line.managed && (line.up.rate.get() - 40.0).abs() < 1e-12 && (line.evening - 0.4).abs() < 1e-12);
        assert!((line.down.queue.get() - 120.0).abs() < 1e-12 && (line.delay.get() - 8.0).abs() < 1e-12);
        for wrong in [
            "",
            "300",
            "300/40",
            "300/40,8",
            "0/40,8,120",
            "300/40,-8,120",
            "300/40,8,120,quick",
            "300/40,8,120,evening=2",
        ] {
            assert!(wrong.parse::<Line>().is_err(), "{wrong}");
        }
    }

    #[test]
    fn an_evening_is_slow_and_an_afternoon_is_not() {
        assert!((part_at(20, 0.4) - 0.4).abs() < 1e-12 && (part_at(15, 0.4) - 1.0).abs() < 1e-12);
        assert!(part_at(20, 0.0) > 0.0, "a line that is there lets something through");
    }

    #[tokio::test]
    async fn what_enters_leaves_at_the_rate_of_the_line_and_the_queue_has_an_end() {
        let bottleneck = Bottleneck::new(line(false).down, &line(false));
        let begun = Instant::now();
        let last = (0..).map_while(|_| bottleneck.enter(50_000)).last().unwrap();
        // Each takes 10 ms: eight fill the queue, and the last of them is 5 ms further on its way.
        let after = (last - begun).as_secs_f64() * 1000.0;
        assert!((84.0..=97.0).contains(&after), "{after}");
    }

    #[tokio::test]
    async fn a_single_packet_waits_behind_the_others_unless_the_queue_is_managed() {
        for (managed, range) in [(false, 84.0..97.0), (true, 5.0..7.0)] {
            let bottleneck = Bottleneck::new(line(managed).down, &line(managed));
            while bottleneck.enter(50_000).is_some() {}
            let now = Instant::now();
            let arrives = (bottleneck.enter(200).unwrap() - now).as_secs_f64() * 1000.0;
            assert!(range.contains(&arrives), "{managed}: {arrives}");
        }
    }

    /// A server that answers each line with where it sees the asker come from.
    async fn place_of() -> SocketAddr {
        let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
        let address = listener.local_addr().unwrap();
        tokio::spawn(async move {
            while let Ok((mut peer, from)) = listener.accept().await {
                tokio::spawn(async move {
                    let mut byte = [0];
                    while peer.read_exact(&mut byte).await.is_ok() {
                        let last = match from.ip() {
                            IpAddr::V4(own) => own.octets()[3],
                            IpAddr::V6(_) => 0,
                        };
                        peer.write_all(&[last]).await.unwrap();
                    }
                });
            }
        });
        address
    }

    /// The last octet of the address that an exchange comes from; none when nothing is answered.
    async fn exchange(socket: &mut TcpStream) -> Option<u8> {
        socket.write_all(&[1]).await.ok()?;
        let mut byte = [0];
        let answered = tokio::time::timeout(Duration::from_millis(150), socket.read_exact(&mut byte)).await;
        answered.ok()?.ok().map(|_| byte[0])
    }

    #[tokio::test]
    async fn a_pulled_line_stands_still_and_a_second_one_carries_what_is_begun_anew() {
        let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
        let (near, far) = (listener.local_addr().unwrap(), place_of().await);
        let plug = Plug::default();
        let hand = plug.clone();
        tokio::spawn(async move { line(false).relay_by(listener, far, &hand).await });
        let mut old = TcpStream::connect(near).await.unwrap();
        assert_eq!(exchange(&mut old).await, Some(1));
        plug.0.send_replace(Carrier::Dead);
        assert_eq!(exchange(&mut old).await, None, "pulled");
        let mut new = TcpStream::connect(near).await.unwrap();
        assert_eq!(exchange(&mut new).await, None, "nothing carries it yet");
        plug.0.send_replace(Carrier::Second);
        let mut second = TcpStream::connect(near).await.unwrap();
        assert_eq!(exchange(&mut second).await, Some(2));
        assert_eq!(exchange(&mut old).await, None, "its way is gone");
        plug.0.send_replace(Carrier::First);
        assert!(exchange(&mut old).await.is_some(), "what waited goes on");
        assert_eq!(exchange(&mut second).await, None);
    }
}
