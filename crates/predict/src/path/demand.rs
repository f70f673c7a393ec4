//! What busy rooms take of a network, and what that leaves for one more.

use busy_hen_catalogue::spectrum::Block;
use busy_hen_radio::airtime::airtime_share;
use busy_hen_radio::airtime::neighbours::Turn;
use busy_hen_units::MbitPerSec;

use super::direction::Direction;
use super::hop::Medium;

/// What one busy room takes.
#[derive(Debug, Clone, Default)]
pub struct Demand {
    /// Index of the device that serves it.
    pub node: usize,
    /// Download it wants.
    pub down: MbitPerSec,
    /// Upload it wants.
    pub up: MbitPerSec,
    /// Airtime it takes of each channel it crosses.
    pub airtime: Vec<(Block, f64)>,
    /// Time it takes of the mains wiring, which all power-line ends share.
    pub mains: f64,
    /// Devices whose uplinks it goes over.
    pub hops: Vec<usize>,
}

/// What others take, seen from one place: all demands but those of its own room.
#[derive(Debug, Clone, Copy, Default)]
pub struct Others<'a> {
    /// One entry a room: what it takes; none when nothing.
    pub demands: &'a [Option<Demand>],
    /// Index of the room that one is in oneself.
    pub except: Option<usize>,
}

impl Others<'_> {
    fn busy(&self) -> impl Iterator<Item = &Demand> {
        let except = self.except;
        self.demands.iter().enumerate().filter(move |(index, _)| Some(*index) != except).filter_map(|(_, d)| d.as_ref())
    }

    /// The share of one more beside these, in memory taken once: this is asked thousands of times a second.
    fn share(&self, wants: impl Iterator<Item = f64>) -> f64 {
        let mut parts = Vec::with_capacity(self.demands.len() + 4);
        parts.extend(wants);
        airtime_share(parts)
    }

    /// Part of the airtime of these channels that is left for one more, when neighbours take turns too.
    #[must_use]
    pub fn airtime_left(&self, blocks: &[Block], neighbours: &[Turn]) -> f64 {
        let of_room = |room: &Demand| {
            let here = room.airtime.iter().filter(|(used, _)| blocks.iter().any(|block| block.overlaps(used)));
            here.map(|(_, part)| part).sum::<f64>()
        };
        self.share(self.busy().map(of_room).chain(neighbours.iter().map(|turn| turn.part)))
    }

    /// What is left of a wired hop that carries this much.
    #[must_use]
    pub fn hop_left(&self, hop: usize, medium: Medium, direction: Direction, carries: MbitPerSec) -> MbitPerSec {
        let wants = |room: &Demand| match direction {
            _ if medium.is_shared() => room.down + room.up,
            Direction::Down => room.down,
            Direction::Up => room.up,
        };
        let over_it = self.busy().filter(|room| room.hops.contains(&hop));
        carries * self.share(over_it.map(|room| wants(room).get() / carries.get().max(1e-6)))
    }

    /// Part of the time on the mains wiring that is left: all power-line ends on it are one medium and take turns.
    #[must_use]
    pub fn mains_left(&self) -> f64 {
        self.share(self.busy().map(|room| room.mains).filter(|part| *part > 0.0))
    }

    /// What is left of the plan.
    #[must_use]
    pub fn plan_left(&self, direction: Direction, plan: MbitPerSec) -> MbitPerSec {
        let wants = |room: &Demand| if direction == Direction::Down { room.down } else { room.up };
        plan * self.share(self.busy().map(|room| wants(room).get() / plan.get().max(1e-6)))
    }
}
