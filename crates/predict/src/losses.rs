//! Losses from any place to any places, ready for an evaluator: the part of a prediction that looks at the house.

use busy_hen_floorplan::{Plan, Point, View};
use busy_hen_home::{Aerial, Enclosure};
use busy_hen_radio::propagation::aerial::Pattern;
use busy_hen_radio::propagation::{PropagationModel, Sight};
use busy_hen_units::{Db, Megahertz};

use super::signals::RadioField;
use crate::path::nodes::enclosure_loss;

/// A place where a device may stand, with its aerials and what it stands in.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Site {
    /// The place.
    pub at: Point,
    /// The aerials.
    pub aerial: Aerial,
    /// What it stands in.
    pub enclosure: Enclosure,
}

/// A place that hears, with what it sees of the house.
#[derive(Debug, Clone)]
pub struct Spot {
    /// The place.
    pub at: Point,
    view: View,
    /// The site that it is, when a device may stand there.
    site: Option<Site>,
}

impl Spot {
    /// A place where a client is held.
    #[must_use]
    pub fn in_hand(plan: &Plan, at: Point) -> Self {
        Self { at, view: plan.surfaces.view(&at), site: None }
    }

    /// A place where a device may stand.
    #[must_use]
    pub fn of_site(plan: &Plan, site: Site) -> Self {
        Self { site: Some(site), ..Self::in_hand(plan, site.at) }
    }
}

/// Losses from a site to every spot at each of these frequencies: one list a frequency, in the order of the spots.
///
/// # Complexity
/// O(frequencies x cells^2 + spots x (walls + frequencies x surfaces of a room))
#[must_use]
pub fn losses(house: &PropagationModel<'_>, site: &Site, spots: &[Spot], frequencies: &[Megahertz]) -> Vec<Vec<Db>> {
    let plan = house.plan;
    let lit: Vec<RadioField<'_>> =
        frequencies.iter().map(|frequency| RadioField::new(house, site.at, site.enclosure, *frequency)).collect();
    let pattern = Pattern::new(&site.aerial);
    let mut sight = Sight::between(plan, site.at, site.at);
    let mut lists = vec![Vec::with_capacity(spots.len()); frequencies.len()];
    for spot in spots {
        sight.set_between(plan, site.at, spot.at);
        let mut gain = pattern.beyond_counted(site.at, spot.at);
        if let Some(other) = &spot.site {
            gain += Pattern::new(&other.aerial).beyond_counted(spot.at, site.at);
        }
        for ((list, lit), frequency) in lists.iter_mut().zip(&lit).zip(frequencies) {
            let enclosed = spot.site.map_or(Db::new(0.0), |other| enclosure_loss(other.enclosure, *frequency));
            list.push(lit.loss(&sight, &spot.view, gain) + enclosed);
        }
    }
    lists
}
