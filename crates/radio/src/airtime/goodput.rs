//! TCP goodput of one link over the medium-access layer.

use busy_hen_home::{Band, Generation};
use busy_hen_units::{MbitPerSec, Megahertz};

use busy_hen_catalogue::phy::{Mcs, Standard, rate};

/// Mean back-off: 7.5 slots of 9 µs.
const BACK_OFF: f64 = 67.5;
/// Longest time on air of one aggregate, µs.
const AIRTIME_LIMIT: f64 = 4000.0;
/// TCP payload of a full packet, bytes (1500 less 20 IP, 20 TCP and 12 of time stamps).
const SEGMENT: f64 = 1448.0;
/// Full packet with its link header within an aggregate, bytes.
const PACKET: f64 = 1524.0;
/// Aggregated frame's own overhead, bytes.
const FRAME_OVERHEAD: f64 = 50.0;
/// TCP acknowledgement with its headers, bytes.
const ACK: f64 = 132.0;
/// Part of the time that is left after frame losses (5 %) and management (2 %), fitted.
const LEFT: f64 = 0.95 * 0.98;

/// One direction of a link at a certain rate.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stream {
    /// Band, for its frame spacing.
    pub band: Band,
    /// Generation both ends share.
    pub generation: Generation,
    /// Channel width used.
    pub width: Megahertz,
    /// Spatial streams used.
    pub streams: u8,
    /// Modulation and coding used.
    pub mcs: Mcs,
    /// Whether an end is early ax kit, which puts no more than 64 frames into an aggregate.
    pub short_window: bool,
}

impl Stream {
    /// Its rate on the air.
    #[must_use]
    pub fn phy_rate(&self) -> Option<MbitPerSec> {
        rate::phy_rate(self.generation, self.width, self.streams, self.mcs, self.generation.usual_guard())
    }

    fn symbol(&self) -> f64 {
        (self.generation.symbol() + self.generation.usual_guard()).get()
    }
}

/// Frames an aggregate may hold, packets a frame may hold, and bytes of a frame, by generation.
fn window(data: &Stream) -> (f64, f64, f64) {
    match data.generation {
        Generation::N => (64.0, 1.0, 65_535.0),
        Generation::Ac => (64.0, 3.0, 1_048_575.0),
        Generation::Ax => (if data.short_window { 64.0 } else { 256.0 }, 2.0, 4_194_303.0),
        Generation::Be => (512.0, 2.0, 15_523_200.0),
    }
}

/// Length of the preamble with the training fields of this many streams.
fn preamble(generation: Generation, streams: u8) -> f64 {
    let training = match streams {
        0 | 1 => 1.0,
        2 => 2.0,
        3 | 4 => 4.0,
        5 | 6 => 6.0,
        _ => 8.0,
    };
    match generation {
        Generation::N => 32.0 + 4.0 * training,
        Generation::Ac => 36.0 + 4.0 * training,
        Generation::Ax => 36.0 + 7.2 * training + 8.0,
        Generation::Be => 48.0 + 7.2 * training + 8.0,
    }
}

/// TCP goodput of `data` when its acknowledgements return at `back`; none when either has no rate.
///
/// One cycle is: contention, preamble, an aggregate as long as window, byte cap and 4 ms of airtime allow, block
/// acknowledgement; and its share of the return aggregate of TCP acknowledgements, one per two segments.
///
/// # Source
/// Timing of IEEE 802.11 clauses 10 and 17 to 36 (slot 9 µs, SIFS 16 or 10 µs, AIFS of best effort); section 7 of
/// `docs/MODEL.md`; within 3 % of a slot-level simulation of two contenders.
#[must_use]
pub fn tcp_goodput(data: &Stream, back: MbitPerSec) -> Option<MbitPerSec> {
    let rate = data.phy_rate()?.get();
    let back = back.get();
    if back <= 0.0 {
        return None;
    }
    let low_band = data.band == Band::Ghz2_4;
    let sifs = if low_band { 10.0 } else { 16.0 };
    let extension = if low_band { 6.0 } else { 0.0 };
    let access = sifs + 27.0 + BACK_OFF;
    let block_ack = 32.0 + extension;
    let symbol = data.symbol();

    let (frames_limit, packets, byte_cap) = window(data);
    let mut per_frame = packets;
    let mut frame = PACKET * packets + FRAME_OVERHEAD;
    let mut frames = frames_limit.min((byte_cap / frame).floor()).min((AIRTIME_LIMIT * rate / (8.0 * frame)).floor());
    if frames < 1.0 {
        (frames, per_frame, frame) = (1.0, 1.0, PACKET + FRAME_OVERHEAD);
    }
    let payload = ((8.0 * frames * frame + 22.0) / (rate * symbol)).ceil() * symbol;
    let segments = frames * per_frame;
    let acks = if frames < 4.0 { segments / 2.0 } else { (segments / 2.0).ceil() };
    let ack_payload = (8.0 * ACK * acks.max(1.0) / (back * symbol)).ceil() * symbol;
    let ack_time = access + preamble(data.generation, 1) + ack_payload + sifs + block_ack + extension;
    let cycle = access
        + preamble(data.generation, data.streams)
        + payload
        + extension
        + sifs
        + block_ack
        + acks.min(1.0) * ack_time;
    Some(MbitPerSec::new(segments * SEGMENT * 8.0 / cycle * LEFT))
}
