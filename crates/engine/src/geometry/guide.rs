//! What grazes the walls of a long room goes on along it: more than in the open arrives far down a corridor.

use super::shapes::{Point, Rect};

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
    pub fn guides(&self) -> bool {
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
    pub fn guide(&self, a: &Point, b: &Point) -> f64 {
        let (from, to) = ([a.x, a.y, a.z], [b.x, b.y, b.z]);
        let squares: [f64; 3] = std::array::from_fn(|axis| (to[axis] - from[axis]).powi(2));
        let direct: f64 = squares.iter().sum();
        if direct < 1e-6 {
            return 1.0;
        }
        (0..3)
            .map(|axis| {
                let (low, high) = self.sides[axis];
                let (p, q, width) = (from[axis] - low, to[axis] - low, high - low);
                let others = direct - squares[axis];
                let image = |apart: f64, bounces: i32| {
                    let square = others + apart * apart;
                    let grazing = grazed(apart / square.sqrt());
                    grazing.powi(bounces) * direct / square
                };
                let first = image(p + q, 1) + image(2.0 * width - p - q, 1);
                let second = image(2.0 * width + p - q, 2) + image(2.0 * width - p + q, 2);
                1.0 + first + second
            })
            .product()
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
        let gain = |d: f64| 10.0 * corridor.guide(&at(0.5, 0.7), &at(0.5 + d, 0.7)).log10();
        assert!(corridor.guides() && gain(12.0) > gain(6.0) && gain(6.0) > gain(2.0));
        assert!((4.0..7.0).contains(&gain(12.0)), "{}", gain(12.0));
        let room = Box::new(&Rect::new(0.0, 0.0, 4.0, 4.0), 0.0, 2.6);
        assert!(!room.guides());
    }

    #[test]
    fn it_is_the_same_both_ways() {
        let corridor = Box::new(&Rect::new(0.0, 0.0, 1.2, 9.0), 0.0, 2.5);
        let (a, b) = (Point { x: 0.3, y: 0.4, z: 1.0 }, Point { x: 0.9, y: 8.0, z: 1.7 });
        assert!((corridor.guide(&a, &b) - corridor.guide(&b, &a)).abs() < 1e-12);
    }
}
