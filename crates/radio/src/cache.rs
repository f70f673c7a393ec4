//! Things worked out before, kept within bounds: when there are too many, those not used for longest go, never all at once.

use std::hash::Hash;
use std::sync::{Mutex, MutexGuard, PoisonError};

use lru::LruCache;

/// Values by key, up to a total weight.
#[derive(Debug)]
pub struct Cache<K: Hash + Eq, V: Clone> {
    inner: Mutex<Inner<K, V>>,
    most: usize,
}

#[derive(Debug)]
struct Inner<K: Hash + Eq, V> {
    values: LruCache<K, (V, usize)>,
    weight: usize,
}

impl<K: Hash + Eq, V: Clone> Cache<K, V> {
    /// Keeps values of at most this weight together.
    #[must_use]
    pub fn new(most: usize) -> Self {
        Self { inner: Mutex::new(Inner { values: LruCache::unbounded(), weight: 0 }), most }
    }

    /// The value of this key, made when it is not there. It is made outside of any lock: two who ask at once may both make it, and
    /// both get the one that was kept first.
    pub fn get_or_make(&self, key: K, weight: impl FnOnce(&V) -> usize, make: impl FnOnce() -> V) -> V {
        if let Some(value) = self.get(&key) {
            return value;
        }
        let value = make();
        let weight = weight(&value);
        self.keep(key, value, weight)
    }

    /// The value of this key, when it is kept.
    pub fn get(&self, key: &K) -> Option<V> {
        self.lock().values.get(key).map(|(value, _)| value.clone())
    }

    /// Keeps a value of this weight, unless there is one already; the one that is kept comes back.
    pub fn keep(&self, key: K, value: V, weight: usize) -> V {
        let mut inner = self.lock();
        if let Some((there, _)) = inner.values.get(&key) {
            return there.clone();
        }
        inner.weight += weight;
        inner.values.put(key, (value.clone(), weight));
        while inner.weight > self.most && inner.values.len() > 1 {
            if let Some((_, (_, gone))) = inner.values.pop_lru() {
                inner.weight -= gone;
            }
        }
        value
    }

    /// Lets go of what nobody will ask for again.
    pub fn forget(&self, useless: impl Fn(&K) -> bool)
    where
        K: Clone,
    {
        let mut inner = self.lock();
        let gone: Vec<K> = inner.values.iter().filter(|(key, _)| useless(key)).map(|(key, _)| key.clone()).collect();
        for key in gone {
            if let Some((_, weight)) = inner.values.pop(&key) {
                inner.weight -= weight;
            }
        }
    }

    /// How many values are kept.
    #[must_use]
    pub fn len(&self) -> usize {
        self.lock().values.len()
    }

    /// Whether none is.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    fn lock(&self) -> MutexGuard<'_, Inner<K, V>> {
        self.inner.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_not_used_for_longest_goes_and_the_rest_stays() {
        let kept = Cache::new(10);
        let make = |key: u32| kept.get_or_make(key, |_| 4, || key * 2);
        assert_eq!((make(1), make(2)), (2, 4));
        assert_eq!(kept.get_or_make(1, |_| 4, || 99), 2, "kept, not made again");
        make(3);
        assert_eq!(kept.len(), 2);
        assert_eq!(kept.get_or_make(2, |_| 4, || 98), 98, "2 was used longest ago and went");
        assert_eq!(kept.get_or_make(2, |_| 4, || 97), 98);
    }

    #[test]
    fn what_is_forgotten_makes_room() {
        let kept = Cache::new(10);
        for key in [1, 2] {
            kept.get_or_make(key, |_| 4, || key);
        }
        kept.forget(|key| *key == 2);
        kept.get_or_make(3, |_| 4, || 3);
        assert_eq!((kept.get(&1), kept.get(&2), kept.get(&3)), (Some(1), None, Some(3)));
    }

    #[test]
    fn one_value_over_the_bound_is_kept_alone() {
        let kept = Cache::new(10);
        kept.get_or_make(1, |_| 4, || 1);
        kept.get_or_make(2, |_| 400, || 2);
        assert_eq!(kept.len(), 1);
    }
}
