//! Wrong pass phrases, counted by where they come from: whoever guesses slows himself down and keeps nobody else out.

use std::collections::HashMap;
use std::net::{IpAddr, Ipv4Addr};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

/// Wrong tries from one place that cost nothing.
pub const FREE_TRIES: u32 = 4;
/// Longest wait after a wrong try: behind a second router many share one address.
pub const WAIT_MOST: Duration = Duration::from_secs(300);
/// How long after its last try a place is forgotten.
const FORGOTTEN: Duration = Duration::from_secs(3600);
/// Places that are remembered at most.
const PLACES_MOST: usize = 10_000;
/// Wrong tries from all other machines together that are heard at once ...
const ALL_MOST: f64 = 120.0;
/// ... and how long it takes until one more is.
const ALL_EVERY: Duration = Duration::from_secs(5);

/// Where a try comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Origin {
    /// The machine of the bench itself.
    Here,
    /// Another machine, by its address; of IPv6 its network, of which one machine has any number of addresses.
    There(IpAddr),
}

impl Origin {
    /// The origin of a peer; one without an address is of a place of its own.
    #[must_use]
    pub fn of(peer: Option<IpAddr>, here: bool) -> Self {
        if here {
            return Self::Here;
        }
        match peer.map(|peer| peer.to_canonical()) {
            None => Self::There(Ipv4Addr::UNSPECIFIED.into()),
            Some(IpAddr::V6(own)) => Self::There(IpAddr::V6((u128::from(own) >> 64 << 64).into())),
            Some(own) => Self::There(own),
        }
    }
}

/// What was tried in vain. It is forgotten when the program ends.
#[derive(Debug, Default)]
pub struct Tries(Mutex<Counts>);

#[derive(Debug, Default)]
struct Counts {
    by: HashMap<Origin, Count>,
    all: All,
}

#[derive(Debug, Clone, Copy)]
struct Count {
    wrong: u32,
    last: Instant,
    until: Option<Instant>,
}

/// Wrong tries from all other machines: a bucket that leaks.
#[derive(Debug, Default)]
struct All {
    level: f64,
    last: Option<Instant>,
}

impl All {
    /// Fills in one more; or how long until there is room for it.
    fn add(&mut self, now: Instant) -> Result<(), Duration> {
        let since = self.last.map_or(Duration::ZERO, |last| now.saturating_duration_since(last));
        let level = (self.level - since.as_secs_f64() / ALL_EVERY.as_secs_f64()).max(0.0);
        (self.level, self.last) = (level, Some(now));
        if level > ALL_MOST - 1.0 {
            return Err(ALL_EVERY.mul_f64(level - (ALL_MOST - 1.0)));
        }
        self.level += 1.0;
        Ok(())
    }
}

impl Tries {
    /// Begins a try: counted as wrong until it is known to be right, so that tries at once don't go uncounted.
    ///
    /// # Errors
    /// How long to wait, at most [`WAIT_MOST`].
    pub fn begin(&self, from: Origin, now: Instant) -> Result<(), Duration> {
        let mut counts = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        counts.by.retain(|_, own| now.saturating_duration_since(own.last) < FORGOTTEN);
        let known = counts.by.get(&from).copied();
        if let Some(left) = known.and_then(|own| own.until?.checked_duration_since(now)).filter(|left| !left.is_zero())
        {
            return Err(left);
        }
        if from != Origin::Here {
            counts.all.add(now)?;
        }
        let wrong = known.map_or(0, |own| own.wrong) + 1;
        let wait = (wrong > FREE_TRIES).then(|| Duration::from_secs(1 << (wrong - FREE_TRIES).min(16)).min(WAIT_MOST));
        if known.is_none()
            && counts.by.len() >= PLACES_MOST
            && let Some(oldest) = counts.by.iter().min_by_key(|(_, own)| own.last).map(|(own, _)| *own)
        {
            counts.by.remove(&oldest);
        }
        counts.by.insert(from, Count { wrong, last: now, until: wait.map(|wait| now + wait) });
        Ok(())
    }

    /// The try was right.
    pub fn was_right(&self, from: Origin) {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).by.remove(&from);
    }
}

/// Pass phrases that are being read at once, by where they come from: one who sends them slowly keeps nobody else from sending theirs.
#[derive(Debug, Default)]
pub struct Hearing(Arc<Mutex<HashMap<Origin, usize>>>);

/// Pass phrases that are read at once from one place, and from all.
const HEARD_EACH: usize = 8;
const HEARD_ALL: usize = 256;

/// One that is being read; it ends when it is dropped.
#[derive(Debug)]
pub struct Heard {
    all: Arc<Mutex<HashMap<Origin, usize>>>,
    from: Origin,
}

impl Hearing {
    /// One more; none where as many are read as may be.
    #[must_use]
    pub fn begin(&self, from: Origin) -> Option<Heard> {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let own = all.get(&from).copied().unwrap_or(0);
        let others = all.values().sum::<usize>();
        if own >= HEARD_EACH || (others >= HEARD_ALL && from != Origin::Here) {
            return None;
        }
        all.insert(from, own + 1);
        Some(Heard { all: Arc::clone(&self.0), from })
    }
}

impl Drop for Heard {
    fn drop(&mut self) {
        let mut all = self.all.lock().unwrap_or_else(PoisonError::into_inner);
        match all.get_mut(&self.from) {
            Some(own) if *own > 1 => *own -= 1,
            _ => {
                all.remove(&self.from);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn there(address: &str) -> Origin {
        Origin::of(Some(address.parse().expect("an address")), false)
    }

    #[test]
    fn wrong_tries_cost_more_and_more_time_and_a_right_one_forgives_them() {
        let (tries, own, mut now) = (Tries::default(), there("203.0.113.9"), Instant::now());
        for _ in 0..=FREE_TRIES {
            tries.begin(own, now).expect("free");
        }
        let mut waits = Vec::new();
        for _ in 0..12 {
            let wait = tries.begin(own, now).expect_err("a wait");
            waits.push(wait.as_secs());
            now += wait;
            tries.begin(own, now).expect("the wait is over");
        }
        assert_eq!(waits[..8], [2, 4, 8, 16, 32, 64, 128, 256]);
        assert!(waits[8..].iter().all(|wait| *wait == WAIT_MOST.as_secs()), "{waits:?}");
        tries.was_right(own);
        tries.begin(own, now).expect("forgiven");
    }

    #[test]
    fn a_stranger_keeps_nobody_out_but_whoever_shares_his_network() {
        let (tries, now) = (Tries::default(), Instant::now());
        let stranger = there("203.0.113.9");
        while tries.begin(stranger, now).is_ok() {}
        assert_eq!(there("::ffff:203.0.113.9"), stranger, "the same machine by another door");
        for other in [there("203.0.113.10"), there("2001:db8:0:1::9"), Origin::Here] {
            tries.begin(other, now).expect("not theirs to wait");
        }
        while tries.begin(there("2001:db8:0:2::1"), now).is_ok() {}
        assert!(tries.begin(there("2001:db8:0:2:ffff::77"), now).is_err(), "one machine has a network of them");
        tries.begin(there("2001:db8:0:3::1"), now).expect("another network");
    }

    #[test]
    fn any_number_of_machines_guess_no_more_than_so_many_together_and_the_bench_itself_goes_on() {
        let (tries, now) = (Tries::default(), Instant::now());
        let heard = |from: u32, now| {
            let machines = (0..4000).map(|own| Origin::There(IpAddr::V4((from + own).into())));
            machines.filter(|own| tries.begin(*own, now).is_ok()).count()
        };
        assert_eq!(heard(1 << 24, now), ALL_MOST as usize);
        tries.begin(Origin::Here, now).expect("its own count");
        let minute = now + Duration::from_secs(60);
        assert_eq!(heard(2 << 24, minute), 12);
    }

    #[test]
    fn one_place_is_read_so_often_at_once_and_leaves_room_for_others() {
        let hearing = Hearing::default();
        let own: Vec<Heard> = (0..50).filter_map(|_| hearing.begin(there("203.0.113.9"))).collect();
        assert_eq!(own.len(), HEARD_EACH);
        assert!(hearing.begin(there("203.0.113.10")).is_some() && hearing.begin(Origin::Here).is_some());
        drop(own);
        assert!(hearing.begin(there("203.0.113.9")).is_some());
    }

    #[test]
    fn a_place_is_forgotten_after_an_hour() {
        let (tries, own, now) = (Tries::default(), there("203.0.113.9"), Instant::now());
        while tries.begin(own, now).is_ok() {}
        let later = now + FORGOTTEN;
        for _ in 0..=FREE_TRIES {
            tries.begin(own, later).expect("as if never seen");
        }
    }
}
