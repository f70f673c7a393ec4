//! What grazes the walls of a long room goes on along it: more than in the open arrives far down a corridor.

use super::shapes::{Point, Rect};
use super::surface::{Axis, Surface};

/// Rooms less than so many times as long as wide guide nothing that counts.
const LONG: f64 = 2.5;
/// Relative permittivity of what rooms are lined with: concrete, plaster and wood lie about it (ITU-R P.2040).
const PERMITTIVITY: f64 = 5.0;

/// The inside of a room.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Box {
    /// From where to where along each axis.
    pub sides: [(f64, f64); 3],
}

impl Box {
    /// A room of this outline between these heights.
    #[must_use]
    pub fn new(rect: &Rect, low: f64, high: f64) -> Self {
        Self { sides: [(rect.x, rect.east()), (rect.y, rect.south()), (low, high)] }
    }

    /// Whether it is so long that it guides.
    #[must_use]
    pub fn is_waveguide(&self) -> bool {
        let [(x0, x1), (y0, y1), _] = self.sides;
        let (a, b) = (x1 - x0, y1 - y0);
        a.max(b) > LONG * a.min(b)
    }

    /// By how much more power arrives from one place of it to another than in the open, by what grazing reflects beyond what is thrown
    /// back square on, which the rooms' own balance counts: images of first and second order in each pair of walls.
    ///
    /// # Source
    /// Image sources; Fresnel's coefficients for a dielectric, mean of both polarisations.
    #[must_use]
    pub fn waveguide_gain(&self, a: &Point, b: &Point) -> f64 {
        (0..3).map(|axis| self.between_sides(axis, a, b)).product()
    }

    /// The same by its floor and ceiling alone, which go on under and over the walls of a storey: the places may be in two rooms of it.
    #[must_use]
    pub fn storey_waveguide_gain(&self, a: &Point, b: &Point) -> f64 {
        self.between_sides(2, a, b)
    }

    fn between_sides(&self, axis: usize, a: &Point, b: &Point) -> f64 {
        let (from, to) = ([a.x, a.y, a.z], [b.x, b.y, b.z]);
        let direct: f64 = (0..3).map(|axis| (to[axis] - from[axis]).powi(2)).sum();
        if direct < 1e-6 {
            return 1.0;
        }
        let others = direct - (to[axis] - from[axis]).powi(2);
        let part = |(image, bounces): (f64, i32)| {
            let apart = to[axis] - image;
            let square = others + apart * apart;
            let reflected = if bounces == 0 { 1.0 } else { grazed(apart.abs() / square.sqrt()).powi(bounces) };
            reflected * direct / square
        };
        self.images(axis, from[axis]).into_iter().map(part).sum()
    }

    /// The same through an opening of it, a rectangle of its inside: what arrives at a place beyond of what grazes its walls, over what
    /// would arrive in the open.
    #[must_use]
    pub fn through(&self, opening: &Surface, a: &Point, b: &Point) -> f64 {
        let (from, to) = ([a.x, a.y, a.z], [b.x, b.y, b.z]);
        let direct: f64 = (0..3).map(|axis| (to[axis] - from[axis]).powi(2)).sum();
        let [(x0, x1), (y0, y1), _] = self.sides;
        let side = if x1 - x0 > y1 - y0 { 1 } else { 0 };
        let (normal, u, v) = match opening.axis {
            Axis::X => (0, 1, 2),
            Axis::Y => (1, 0, 2),
            Axis::Z => (2, 0, 1),
        };
        let mut sum = 0.0;
        for (across, side_bounces) in self.images(side, from[side]) {
            for (up, up_bounces) in self.images(2, from[2]) {
                if side_bounces + up_bounces == 0 {
                    continue;
                }
                let mut image = from;
                image[side] = across;
                image[2] = up;
                let run: [f64; 3] = std::array::from_fn(|axis| to[axis] - image[axis]);
                let t = (opening.at - image[normal]) / run[normal];
                let met = |axis: usize| image[axis] + t * run[axis];
                let inside = |(low, high): (f64, f64), place: f64| low <= place && place <= high;
                if !(0.0..=1.0).contains(&t) || !inside(opening.u, met(u)) || !inside(opening.v, met(v)) {
                    continue;
                }
                let square: f64 = run.iter().map(|step| step * step).sum();
                let grazing = |axis: usize, bounces| grazed(run[axis].abs() / square.sqrt()).powi(bounces);
                sum += grazing(side, side_bounces) * grazing(2, up_bounces) * direct / square;
            }
        }
        sum
    }

    /// Where a place is seen along an axis by so many bounces between the two sides: itself, and images of first and second order.
    fn images(&self, axis: usize, place: f64) -> [(f64, i32); 5] {
        let (low, high) = self.sides[axis];
        let twice = 2.0 * (high - low);
        [(place, 0), (2.0 * low - place, 1), (2.0 * high - place, 1), (place - twice, 2), (place + twice, 2)]
    }
}

/// Part that is reflected at this cosine from the normal beyond what is reflected square on.
fn grazed(cosine: f64) -> f64 {
    let reflected = |cosine: f64| {
        let root = (PERMITTIVITY - 1.0 + cosine * cosine).sqrt();
        let across = ((cosine - root) / (cosine + root)).powi(2);
        let along = ((PERMITTIVITY * cosine - root) / (PERMITTIVITY * cosine + root)).powi(2);
        (across + along) / 2.0
    };
    (reflected(cosine) - reflected(1.0)).max(0.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_corridor_guides_and_a_room_hardly_does() {
        let at = |x: f64, y: f64| Point { x, y, z: 1.1 };
        let corridor = Box::new(&Rect::new(0.0, 0.0, 14.0, 1.4), 0.0, 2.6);
        let gain = |d: f64| 10.0 * corridor.waveguide_gain(&at(0.5, 0.7), &at(0.5 + d, 0.7)).log10();
        assert!(corridor.is_waveguide() && gain(12.0) > gain(6.0) && gain(6.0) > gain(2.0));
        assert!((4.0..7.0).contains(&gain(12.0)), "{}", gain(12.0));
        let room = Box::new(&Rect::new(0.0, 0.0, 4.0, 4.0), 0.0, 2.6);
        assert!(!room.is_waveguide());
    }

    #[test]
    fn it_is_the_same_both_ways() {
        let corridor = Box::new(&Rect::new(0.0, 0.0, 1.2, 9.0), 0.0, 2.5);
        let (a, b) = (Point { x: 0.3, y: 0.4, z: 1.0 }, Point { x: 0.9, y: 8.0, z: 1.7 });
        assert!((corridor.waveguide_gain(&a, &b) - corridor.waveguide_gain(&b, &a)).abs() < 1e-12);
    }
}
