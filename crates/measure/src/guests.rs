//! Who tests: by code and by machine, and how much each may have open at once, so that none keeps the others from testing.

use std::collections::HashMap;
use std::hash::{DefaultHasher, Hash, Hasher};
use std::net::{IpAddr, Ipv4Addr};
use std::sync::{Arc, Mutex, PoisonError};

use actix_web::HttpRequest;

/// Lines of one code, and of one machine: several phones may share a code, and behind a second router an address.
const LINES_EACH: usize = 64;
/// Lines of all together.
const LINES_ALL: usize = 512;
/// Transfers of one code, and of one machine: thirty phones that begin together have four streams each.
const TRANSFERS_EACH: usize = 160;
/// Transfers of all together.
const TRANSFERS_ALL: usize = 640;

/// Whoever tests: the code, as a number that tells it from others, and the machine.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub(crate) struct Guest {
    pub code: u64,
    pub machine: IpAddr,
}

impl Guest {
    pub fn of(code: &str, request: &HttpRequest) -> Self {
        let mut hasher = DefaultHasher::new();
        code.hash(&mut hasher);
        let peer = request.peer_addr().map_or(IpAddr::from(Ipv4Addr::UNSPECIFIED), |peer| peer.ip().to_canonical());
        Self { code: hasher.finish(), machine: peer }
    }
}

/// What is open at once.
#[derive(Debug)]
pub(crate) struct Bounds {
    each: usize,
    all: usize,
    open: Mutex<Open>,
}

#[derive(Debug, Default)]
struct Open {
    all: usize,
    codes: HashMap<u64, usize>,
    machines: HashMap<IpAddr, usize>,
}

/// One of what is open; it ends when it is dropped.
#[derive(Debug)]
pub(crate) struct Held {
    of: Arc<Bounds>,
    guest: Guest,
}

impl Bounds {
    pub fn of_lines() -> Arc<Self> {
        Arc::new(Self { each: LINES_EACH, all: LINES_ALL, open: Mutex::default() })
    }

    pub fn of_transfers() -> Arc<Self> {
        Arc::new(Self { each: TRANSFERS_EACH, all: TRANSFERS_ALL, open: Mutex::default() })
    }

    /// One more; none where there are as many as there may be.
    pub fn take(self: &Arc<Self>, guest: Guest) -> Option<Held> {
        let mut open = self.open.lock().unwrap_or_else(PoisonError::into_inner);
        let of_code = open.codes.get(&guest.code).copied().unwrap_or(0);
        let of_machine = open.machines.get(&guest.machine).copied().unwrap_or(0);
        if open.all >= self.all || of_code >= self.each || of_machine >= self.each {
            return None;
        }
        open.all += 1;
        open.codes.insert(guest.code, of_code + 1);
        open.machines.insert(guest.machine, of_machine + 1);
        Some(Held { of: Arc::clone(self), guest })
    }
}

impl Drop for Held {
    fn drop(&mut self) {
        let mut open = self.of.open.lock().unwrap_or_else(PoisonError::into_inner);
        open.all -= 1;
        fewer(&mut open.codes, self.guest.code);
        fewer(&mut open.machines, self.guest.machine);
    }
}

fn fewer<K: Hash + Eq>(counts: &mut HashMap<K, usize>, key: K) {
    if let Some(count) = counts.get_mut(&key) {
        *count -= 1;
        if *count == 0 {
            counts.remove(&key);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_code_or_machine_leaves_room_for_others_and_gives_back_what_it_ends() {
        let lines = Bounds::of_lines();
        let guest = |code, machine: u8| Guest { code, machine: [10, 0, 0, machine].into() };
        let own: Vec<Held> = (0..1000).filter_map(|_| lines.take(guest(1, 1))).collect();
        assert_eq!(own.len(), LINES_EACH);
        assert!(lines.take(guest(1, 2)).is_none(), "the same code elsewhere");
        assert!(lines.take(guest(2, 1)).is_none(), "the same machine with another code");
        let other = lines.take(guest(2, 2)).expect("room for others");
        drop((own, other));
        assert!(
            (0..40).all(|_| lines.take(guest(1, 1)).is_some()),
            "30 phones with a line each, and some that had one before"
        );
        let many: Vec<Held> = (0..200)
            .flat_map(|machine| (0..10).map(move |_| guest(u64::from(machine), machine)))
            .filter_map(|own| lines.take(own))
            .collect();
        assert_eq!(many.len(), LINES_ALL);
        drop(many);
        assert!(lines.open.lock().expect("open").codes.is_empty());
    }
}
