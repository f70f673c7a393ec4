//! Whether a film starts, seeks and holds, from when its parts arrived.

use busy_hen_home::FilmCheck;
use busy_hen_home::raw::{FilmPart, RawFilm};
use busy_hen_units::Millis;

use super::Spoiled;
use super::spoiled::came_between;

/// Shortest time before the picture, waiting or watching, that says whether it holds, ms.
const SAT_LEAST_MS: f64 = 30_000.0;
/// Standing still for less than this is not seen, ms (engineering estimate).
const SEEN_MS: f64 = 50.0;

/// What a film did: the picture comes with its first part, and stands still while the part that is due has not arrived.
///
/// # Errors
/// [`Spoiled`] when something came between, or it was left too soon.
pub fn film(raw: &RawFilm) -> Result<FilmCheck, Spoiled> {
    came_between(&raw.interruptions)?;
    let sound = raw.part_ms.get().is_finite()
        && raw.part_ms.get() > 0.0
        && (0.0..1e6).contains(&raw.rate_mbps.get())
        && raw.parts.iter().all(|part| {
            (0.0..=3.6e6).contains(&part.asked_ms.get())
                && (part.asked_ms.get()..=3.6e6).contains(&part.arrived_ms.get())
        })
        && raw.sought.is_none_or(|at| (1..raw.parts.len()).contains(&at));
    if !sound {
        return Err(Spoiled::Nonsense);
    }
    let (before, after) = raw.parts.split_at(raw.sought.unwrap_or(raw.parts.len()));
    let first = played(before, raw.part_ms).ok_or(Spoiled::CutShort)?;
    let then = played(after, raw.part_ms);
    let of_both = |of: fn(&Played) -> f64| of(&first) + then.as_ref().map_or(0.0, of);
    let watched = of_both(|part| part.watched_ms);
    // A film that hardly moves says as much as one that plays.
    if of_both(|part| part.started_ms + part.watched_ms + part.stalled_ms) < SAT_LEAST_MS {
        return Err(Spoiled::CutShort);
    }
    let whole = |ms: f64| Millis::new(ms.round());
    Ok(FilmCheck {
        rate_mbps: raw.rate_mbps,
        started_ms: whole(first.started_ms),
        sought_ms: then.as_ref().map(|part| whole(part.started_ms)),
        stalls: first.stalls + then.as_ref().map_or(0, |part| part.stalls),
        stalled_ms: whole(of_both(|part| part.stalled_ms)),
        watched_ms: whole(watched),
    })
}

struct Played {
    started_ms: f64,
    stalls: u32,
    stalled_ms: f64,
    watched_ms: f64,
}

/// Parts played one after the other from an empty store.
fn played(parts: &[FilmPart], length: Millis) -> Option<Played> {
    let (first, rest) = parts.split_first()?;
    let mut ends = first.arrived_ms.get() + length.get();
    let (mut stalls, mut stalled_ms) = (0, 0.0);
    for part in rest {
        let late = part.arrived_ms.get() - ends;
        if late > SEEN_MS {
            stalls += 1;
            stalled_ms += late;
        }
        ends = ends.max(part.arrived_ms.get()) + length.get();
    }
    Some(Played {
        started_ms: first.arrived_ms.get() - first.asked_ms.get(),
        stalls,
        stalled_ms,
        watched_ms: length.get() * parts.len() as f64,
    })
}
