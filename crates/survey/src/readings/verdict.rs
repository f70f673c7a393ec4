//! Which setup to keep, and why, in sentences that a client understands; and when another would be the better one.

use busy_hen_home::SetupId;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::compare::{Against, times};
use super::ratio::Call;

/// What counts how much in the choice, 0 for nothing to 3 for most.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Weights {
    /// What it costs.
    #[schema(maximum = 3)]
    pub price: u8,
    /// How fast it is beyond what is needed.
    #[schema(maximum = 3)]
    pub speed: u8,
    /// How alike one run is to the next.
    #[schema(maximum = 3)]
    pub steadiness: u8,
    /// How little there is to fit, feed and look after.
    #[schema(maximum = 3)]
    pub ease: u8,
}

impl Default for Weights {
    fn default() -> Self {
        Self { price: 1, speed: 1, steadiness: 1, ease: 1 }
    }
}

/// What is known of one setup, for the choice.
#[derive(Debug, Clone)]
pub struct Candidate {
    /// The setup.
    pub id: SetupId,
    /// Its letter and name.
    pub name: String,
    /// Its letter.
    pub letter: String,
    /// Rooms that need something, those whose need is met (measured where it was, else predicted), and those judged by measurement.
    pub needs: (usize, usize, usize),
    /// Spots that were measured, whatever is needed there.
    pub spots_measured: usize,
    /// The room that gets least of what it needs, and what part of it.
    pub worst: Option<(String, f64)>,
    /// What it costs to buy; none where a price is missing.
    pub price: Option<f64>,
    /// Spread of runs in the middle, as a part; none where not measured.
    pub spread: Option<f64>,
    /// Devices, and holes to drill.
    pub burden: (usize, usize),
    /// Against the reference, all spots together; none for the reference, and where nothing is in common.
    pub against: Option<Against>,
    /// Its ratio to the reference by prediction, all rooms together.
    pub predicted_ratio: f64,
    /// The same with a line that is never in the way.
    pub ratio_past_the_line: f64,
    /// Whether all of its readings are made up.
    pub made_up: bool,
    /// Rooms predicted to get less than in the reference, not measured in it yet.
    pub retest: Vec<String>,
    /// Whether every setting of its router is within reach.
    pub full_control: bool,
}

impl Candidate {
    /// Whether what decides was measured: rooms with a need, or, where nothing is needed, any.
    fn is_measured(&self) -> bool {
        if self.needs.0 > 0 { self.needs.2 > 0 } else { self.spots_measured > 0 }
    }
}

/// The choice.
#[derive(Debug, Clone, PartialEq, Default, Serialize, ToSchema)]
pub struct Choice {
    /// The setup to keep; none while there is none to choose from.
    pub keep: Option<SetupId>,
    /// Why: needs met, worst room, price, weak points.
    pub sentences: Vec<String>,
    /// When another would be the better one.
    pub otherwise: Vec<String>,
    /// What to test again before it is settled.
    pub retest: Vec<String>,
    /// Whether it rests on measurement: alike, enough, and not made up.
    pub measured: bool,
}

/// How much a whole weight of a merit counts against a halving or doubling of speed.
const A_DOUBLING: f64 = std::f64::consts::LN_2;

/// Chooses by needs first: a setup that meets fewer is kept by no weighting. Of those that meet most, by the weighted merits; speed counts only
/// as far as it is beyond the noise, so that of two that are equal the cheaper or simpler is kept. Columns that are not alike give no
/// verdict, only what is expected.
#[must_use]
pub fn choose(candidates: &[Candidate], weights: Weights, like_for_like: bool) -> Choice {
    let Some(most) = candidates.iter().map(|own| own.needs.1).max() else { return Choice::default() };
    let able: Vec<&Candidate> = candidates.iter().filter(|own| own.needs.1 == most).collect();
    let Some(best) = best_of(&able, weights) else { return Choice::default() };
    let others = || candidates.iter().filter(|own| own.id != best.id);
    let enough = !matches!(&best.against, Some(own) if matches!(own.call, Call::CantTell { .. }));
    let measured = best.is_measured() && !best.made_up && enough && (like_for_like || best.against.is_none());
    let mut sentences = vec![needs_in_words(best, candidates)];
    sentences.extend(worst_in_words(best));
    sentences.push(price_in_words(best, &able, weights));
    sentences.push(weak_in_words(best));
    let mut otherwise = Vec::new();
    for other in others() {
        let alone = |price, speed, steadiness, ease| Weights { price, speed, steadiness, ease };
        // A draw wins nothing.
        let wins = |weights: Weights| {
            best_of(&able, weights).is_some_and(|own| own.id == other.id)
                && merit(other, &able, weights) > merit(best, &able, weights) + 1e-9
        };
        let both_known = other.spread.is_some() && best.spread.is_some();
        let cases = [
            (wins(alone(3, 0, 0, 0)), "if price decided"),
            (wins(alone(0, 3, 0, 0)), "if speed decided"),
            (both_known && wins(alone(0, 0, 3, 0)), "if steadiness decided"),
            (wins(alone(0, 0, 0, 3)), "if ease decided"),
        ];
        let mut when: Vec<String> =
            cases.into_iter().filter(|(holds, _)| *holds).map(|(_, told)| told.to_owned()).collect();
        if let Some((price, least)) = other.price.zip(best.price).filter(|(price, least)| price > least)
            && wins(Weights { price: 0, ..weights })
        {
            when.push(format!("if {:.0} more may be spent", price - least));
        }
        if other.burden.1 > best.burden.1 && wins(Weights { ease: 0, ..weights }) {
            let holes = other.burden.1;
            when.push(if holes == 1 {
                "if a hole may be drilled".into()
            } else {
                format!("if {holes} holes may be drilled")
            });
        }
        // What the line holds back in both shows once the line is out of the way.
        if other.ratio_past_the_line > FASTER_LINE * best.ratio_past_the_line
            && other.predicted_ratio <= FASTER_LINE * best.predicted_ratio
        {
            when.push("with a faster line".to_owned());
        }
        if other.full_control && !best.full_control {
            when.push("if every setting must be within reach".to_owned());
        }
        if !when.is_empty() {
            otherwise.push(format!("{} would be the one {}.", other.name, when.join(", or ")));
        }
        if other.needs.1 < most {
            let lacks = most - other.needs.1;
            let needs = if lacks == 1 { "one need".to_owned() } else { format!("{lacks} needs") };
            otherwise.push(format!("{} would do if {needs} less had to be met.", other.name));
        }
    }
    let retest = best
        .retest
        .iter()
        .map(|room| {
            format!("{room} is predicted to get less in {} than before and was not tested in it: test it.", best.letter)
        })
        .collect();
    Choice { keep: Some(best.id), sentences, otherwise, retest, measured }
}

/// A ratio from which a faster line changes which is faster.
const FASTER_LINE: f64 = 1.15;

fn best_of<'c>(able: &[&'c Candidate], weights: Weights) -> Option<&'c Candidate> {
    // In their order: of two with all alike the earlier, which is mostly the simpler.
    let mut best: Option<(&Candidate, f64)> = None;
    for own in able {
        let score = merit(own, able, weights);
        if best.is_none_or(|(_, most)| score > most + 1e-9) {
            best = Some((own, score));
        }
    }
    best.map(|(own, _)| own)
}

/// Merits as logarithms, each weighted and summed.
fn merit(own: &Candidate, able: &[&Candidate], weights: Weights) -> f64 {
    merits(own, able, weights).iter().map(|(_, worth)| worth).sum()
}

/// Merits as logarithms, each weighted, with what one would be kept for.
fn merits(own: &Candidate, able: &[&Candidate], weights: Weights) -> [(&'static str, f64); 4] {
    let cheapest = able.iter().filter_map(|own| own.price).fold(f64::INFINITY, f64::min);
    let dearest = able.iter().filter_map(|own| own.price).fold(0.0, f64::max);
    // What is not priced is taken to cost as much as the dearest.
    let price = own.price.unwrap_or(dearest);
    let of_price = if dearest > cheapest { -(price - cheapest) / (dearest - cheapest) * A_DOUBLING } else { 0.0 };
    let of_speed = speed_of(own).ln().clamp(-2.0, 2.0);
    let steady = |own: &Candidate| own.spread.unwrap_or(0.1).max(0.02);
    let of_steadiness = -(steady(own) / 0.1).ln().clamp(-1.0, 2.0);
    let of_ease = -0.2 * own.burden.0 as f64 - 0.3 * own.burden.1 as f64;
    [
        ("cheaper", f64::from(weights.price) * of_price),
        ("faster", f64::from(weights.speed) * of_speed),
        ("steadier", f64::from(weights.steadiness) * 0.5 * of_steadiness),
        ("simpler", f64::from(weights.ease) * of_ease),
    ]
}

/// What speaks most for the best against the one that comes nearest to it: "cheaper", "steadier"; none where it is alone or nothing does.
fn kept_for(best: &Candidate, able: &[&Candidate], weights: Weights) -> Option<&'static str> {
    let others = able.iter().filter(|own| own.id != best.id);
    let next = others.max_by(|a, b| merit(a, able, weights).total_cmp(&merit(b, able, weights)))?;
    let pairs = merits(best, able, weights).into_iter().zip(merits(next, able, weights));
    let (name, more) =
        pairs.map(|((name, own), (_, theirs))| (name, own - theirs)).max_by(|a, b| a.1.total_cmp(&b.1))?;
    (more > 1e-9).then_some(name)
}

/// Speed against the reference, as far as it is shown: measured beyond the noise, or else, where nothing was measured, predicted.
fn speed_of(own: &Candidate) -> f64 {
    match &own.against {
        Some(against) if against.call == Call::Beyond => against.ratio.ratio,
        Some(_) => 1.0,
        None => own.predicted_ratio,
    }
}

fn needs_in_words(best: &Candidate, candidates: &[Candidate]) -> String {
    let (all, met, measured) = best.needs;
    let basis = match measured {
        0 => "by prediction".to_owned(),
        of if of == all => "as measured".to_owned(),
        of => format!("{of} of them measured"),
    };
    if all == 0 {
        return format!("Keep {}: no room has a need on record, so speed and price decide.", best.name);
    }
    let others: Vec<String> = candidates
        .iter()
        .filter(|own| own.id != best.id)
        .map(|own| format!("{} {}", own.letter, own.needs.1))
        .collect();
    let others = if others.is_empty() { String::new() } else { format!("; {}", others.join(", ")) };
    format!("Keep {}: it meets {met} of {all} needs, {basis}{others}.", best.name)
}

fn worst_in_words(best: &Candidate) -> Option<String> {
    let (room, part) = best.worst.as_ref()?;
    Some(if *part >= 1.0 {
        format!("Its worst room is {room}, with {} what it needs.", times(*part))
    } else {
        format!("Its worst room is {room}, which gets {:.0} % of what it needs.", 100.0 * part)
    })
}

fn price_in_words(best: &Candidate, able: &[&Candidate], weights: Weights) -> String {
    let speed = match &best.against {
        Some(own) if own.call == Call::Beyond => format!(" and is {} as fast as the reference", times(own.ratio.ratio)),
        Some(_) => match kept_for(best, able, weights) {
            Some(why) => format!(" and is as fast as the reference within the noise: the {why} is kept"),
            None => " and is as fast as the reference within the noise".to_owned(),
        },
        None => String::new(),
    };
    match best.price {
        None => format!("What it costs is not known: a price is missing{speed}."),
        Some(price) if price <= 0.0 => format!("It costs nothing to buy{speed}."),
        Some(price) => {
            let cheaper = able.iter().filter_map(|own| own.price).fold(f64::INFINITY, f64::min);
            let more = if price > cheaper {
                format!(", {:.0} more than the cheapest that does as well", price - cheaper)
            } else {
                String::new()
            };
            format!("It costs {price:.0} to buy{more}{speed}.")
        }
    }
}

fn weak_in_words(best: &Candidate) -> String {
    let mut weak: Vec<String> = Vec::new();
    if best.made_up {
        weak.push("its readings are made up and prove nothing".to_owned());
    } else if !best.is_measured() {
        weak.push("nothing of it was measured".to_owned());
    }
    if let Some(Against { call: Call::CantTell { .. }, .. }) = &best.against {
        weak.push("too few runs to tell how much faster it is".to_owned());
    }
    if best.spread.is_some_and(|spread| spread > 0.25) {
        weak.push("runs lie far apart".to_owned());
    }
    if best.burden.1 > 0 {
        let holes = best.burden.1;
        weak.push(if holes == 1 {
            "a hole is to be drilled".to_owned()
        } else {
            format!("{holes} holes are to be drilled")
        });
    }
    if weak.is_empty() { "No weak point is known.".to_owned() } else { format!("Weak: {}.", weak.join("; ")) }
}
