//! Walls as stacks of smooth layers: what a plane wave loses in them, from what they are made of.
//!
//! The table of materials is built on these values; the product uses them to move a wall's loss when its thickness is not the
//! usual one.

use busy_hen_units::{Db, Degrees, Megahertz, Metres};
use num_complex::Complex64;

/// Conductivity to imaginary permittivity: `17.975 sigma / f` with f in GHz (1 / (2 pi epsilon_0)).
const SIGMA_TO_EPS: f64 = 17.975_103;
/// Impedance of free space, ohm.
const FREE_SPACE_OHM: f64 = 376.730_313;
/// Speed of light, m/s.
const LIGHT: f64 = 299_792_458.0;
/// Points over which a thickness is averaged, and how far either way.
const AVERAGED: (i32, f64) = (21, 0.1);

/// Electrical properties of a building material: `eps' = a f^b`, `sigma = c f^d`, f in GHz.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Substance {
    /// Factor of the real permittivity.
    pub a: f64,
    /// Exponent of the real permittivity.
    pub b: f64,
    /// Factor of the conductivity, S/m.
    pub c: f64,
    /// Exponent of the conductivity.
    pub d: f64,
}

const fn substance(a: f64, b: f64, c: f64, d: f64) -> Substance {
    Substance { a, b, c, d }
}

/// Substances by name.
///
/// # Source
/// ITU-R P.2040, Table 3; aerated block is concrete scaled by density (engineering estimate).
pub const SUBSTANCES: [(&str, Substance); 9] = [
    ("concrete", substance(5.24, 0.0, 0.0462, 0.7822)),
    ("brick", substance(3.91, 0.0, 0.0238, 0.16)),
    ("plasterboard", substance(2.73, 0.0, 0.0085, 0.9395)),
    ("wood", substance(1.99, 0.0, 0.0047, 1.0718)),
    ("glass", substance(6.31, 0.0, 0.0036, 1.3394)),
    ("chipboard", substance(2.58, 0.0, 0.0217, 0.78)),
    ("ceiling board", substance(1.48, 0.0, 0.0011, 1.075)),
    ("aerated block", substance(2.0, 0.0, 0.0093, 0.8)),
    ("air", substance(1.0, 0.0, 0.0, 0.0)),
];

/// The substance of this name.
#[must_use]
pub fn substance_named(name: &str) -> Option<Substance> {
    SUBSTANCES.iter().find(|(own, _)| *own == name).map(|(_, substance)| *substance)
}

impl Substance {
    /// Real part of the relative permittivity.
    #[must_use]
    pub fn permittivity(&self, frequency: Megahertz) -> f64 {
        self.a * ghz(frequency).powf(self.b)
    }

    /// Conductivity, S/m.
    #[must_use]
    pub fn conductivity(&self, frequency: Megahertz) -> f64 {
        self.c * ghz(frequency).powf(self.d)
    }
}

/// A layer of a wall.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Layer {
    /// So much of a substance.
    Solid(Substance, Metres),
    /// A conducting film too thin to have a thickness, ohm per square.
    Film(f64),
}

/// Direction of the electric field.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Polarisation {
    /// Square to the plane of incidence.
    Te,
    /// In the plane of incidence.
    Tm,
}

fn ghz(frequency: Megahertz) -> f64 {
    frequency.get() / 1000.0
}

/// Part of the power of a plane wave that a stack of layers lets through, for one polarisation.
///
/// # Source
/// Multilayer slab of ITU-R P.2040, section 2.2, written as a product of chain matrices.
#[must_use]
pub fn transmission(layers: &[Layer], frequency: Megahertz, angle: Degrees, polarisation: Polarisation) -> f64 {
    let j = Complex64::i();
    let (sin, cos) = angle.get().to_radians().sin_cos();
    let k0 = 2.0 * std::f64::consts::PI * frequency.get() * 1e6 / LIGHT;
    let one = Complex64::new(1.0, 0.0);
    let (mut a, mut b, mut c, mut d) = (one, Complex64::default(), Complex64::default(), one);
    for layer in layers {
        let (la, lb, lc) = match layer {
            Layer::Solid(substance, thickness) => {
                let loss = SIGMA_TO_EPS * substance.conductivity(frequency) / ghz(frequency);
                let eps = Complex64::new(substance.permittivity(frequency), -loss);
                let mut q = (eps - sin * sin).sqrt();
                if q.im > 0.0 {
                    q = -q;
                }
                let zeta = if polarisation == Polarisation::Te { one / q } else { q / eps };
                let phase = q * k0 * thickness.get();
                (phase.cos(), j * zeta * phase.sin(), j * phase.sin() / zeta)
            }
            Layer::Film(ohms) => (one, Complex64::default(), Complex64::new(FREE_SPACE_OHM / ohms, 0.0)),
        };
        (a, b, c, d) = (a * la + b * lc, a * lb + b * la, c * la + d * lc, c * lb + d * la);
    }
    let z0 = if polarisation == Polarisation::Te { 1.0 / cos } else { cos };
    (2.0 / (a + b / z0 + c * z0 + d)).norm_sqr()
}

/// Loss of a stack, mean of both polarisations.
#[must_use]
pub fn slab_loss(layers: &[Layer], frequency: Megahertz, angle: Degrees) -> Db {
    let through = [Polarisation::Te, Polarisation::Tm].map(|way| transmission(layers, frequency, angle, way));
    -Db::of_ratio((through[0] + through[1]) / 2.0)
}

/// Loss of a stack at normal incidence, power averaged over thicknesses 10 % either way: solids together, the air gap by itself.
///
/// Walls are not made to a tenth of a wavelength; the average smooths the fringes of one exact thickness.
#[must_use]
pub fn averaged_loss(layers: &[Layer], frequency: Megahertz) -> Db {
    let air = substance_named("air");
    let is_air = |layer: &Layer| matches!(layer, Layer::Solid(substance, _) if Some(*substance) == air);
    let steps = |many: bool| if many { (0..AVERAGED.0).collect() } else { vec![AVERAGED.0 / 2] };
    let scale = |step: i32| {
        let half = f64::from(AVERAGED.0 / 2);
        1.0 + AVERAGED.1 * (f64::from(step) - half) / half
    };
    let (mut sum, mut count) = (0.0, 0.0);
    for gap in steps(layers.iter().any(is_air)) {
        for solid in steps(true) {
            let varied: Vec<Layer> = layers
                .iter()
                .map(|layer| match layer {
                    Layer::Solid(substance, thickness) => {
                        Layer::Solid(*substance, *thickness * scale(if is_air(layer) { gap } else { solid }))
                    }
                    Layer::Film(ohms) => Layer::Film(*ohms),
                })
                .collect();
            sum += transmission(&varied, frequency, Degrees::new(0.0), Polarisation::Te);
            count += 1.0;
        }
    }
    -Db::of_ratio(sum / count)
}

/// The layers of a material of the catalogue; none where only measured ranges are known.
#[must_use]
pub fn stack(key: &str) -> Option<Vec<Layer>> {
    let parts: &[(&str, f64)] = match key {
        "plasterboard" => &[("plasterboard", 12.5), ("air", 75.0), ("plasterboard", 12.5)],
        "double_plasterboard" => &[("plasterboard", 25.0), ("air", 75.0), ("plasterboard", 25.0)],
        "block100" => &[("aerated block", 100.0)],
        "brick105" => &[("brick", 105.0)],
        "brick215" => &[("brick", 215.0)],
        "cavity" => &[("brick", 105.0), ("air", 75.0), ("aerated block", 100.0)],
        "concrete100" => &[("concrete", 100.0)],
        "concrete150" | "concrete_floor" => &[("concrete", 150.0)],
        "concrete200" | "rc200" => &[("concrete", 200.0)],
        "door" => &[("wood", 44.0)],
        "glass" => &[("glass", 6.0)],
        "dg" => &[("glass", 4.0), ("air", 16.0), ("glass", 4.0)],
        "timber_floor" => &[("chipboard", 22.0), ("air", 200.0), ("plasterboard", 12.5)],
        "ceiling" => &[("plasterboard", 12.5)],
        _ => return None,
    };
    parts.iter().map(|(name, mm)| Some(Layer::Solid(substance_named(name)?, Metres::new(mm / 1000.0)))).collect()
}

/// The same stack with its thickest solid layer this thick.
#[must_use]
pub fn of_thickness(layers: &[Layer], thickness: Metres) -> Vec<Layer> {
    let air = substance_named("air");
    let solid = |layer: &Layer| match layer {
        Layer::Solid(substance, own) if Some(*substance) != air => own.get(),
        _ => 0.0,
    };
    let main = (0..layers.len()).max_by(|a, b| solid(&layers[*a]).total_cmp(&solid(&layers[*b])));
    layers
        .iter()
        .enumerate()
        .map(|(index, layer)| match layer {
            Layer::Solid(substance, _) if Some(index) == main => Layer::Solid(*substance, thickness),
            other => *other,
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    const FIVE: Megahertz = Megahertz::new(5500.0);

    #[test]
    fn nothing_in_the_way_loses_nothing_at_any_angle() {
        for angle in [0.0, 30.0, 60.0] {
            assert!(slab_loss(&[], FIVE, Degrees::new(angle)).get().abs() < 1e-9);
        }
    }

    #[test]
    fn every_layer_only_takes() {
        let wall = stack("cavity").unwrap();
        for angle in [0.0, 45.0, 75.0] {
            for polarisation in [Polarisation::Te, Polarisation::Tm] {
                let through = transmission(&wall, FIVE, Degrees::new(angle), polarisation);
                assert!(through > 0.0 && through < 1.0);
            }
        }
    }

    #[test]
    fn a_thicker_wall_loses_more_and_only_its_main_layer_grows() {
        let usual = stack("cavity").unwrap();
        let thick = of_thickness(&usual, Metres::new(0.215));
        assert_eq!(usual[1..], thick[1..]);
        assert!(averaged_loss(&thick, FIVE) > averaged_loss(&usual, FIVE));
    }
}
