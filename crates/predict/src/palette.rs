//! Colours of the lit map: one ramp from night to white by luminance, and a diverging one for differences.
//!
//! They are told with what they mean, so that every screen and picture shows one meaning by one colour. Luminance alone tells the steps
//! apart, in grey and to the colour-blind; a test holds it.

use serde::Serialize;
use utoipa::ToSchema;

/// Night to white, one colour a service step; L* rises by about ten from each to the next.
pub const RAMP: [&str; 10] =
    ["#141b2e", "#352f4f", "#563f5f", "#7b4f5e", "#9d6156", "#bb7a4c", "#d49a52", "#e6bd6d", "#f5dea2", "#fffaec"];

/// Much worse, worse, alike, better, much better.
pub const DIVERGING: [&str; 5] = ["#8a3c26", "#cf9a72", "#efe9dc", "#7fb3a6", "#1f5f4d"];

/// Lightest colour, by L*, on which paper still reads better than ink.
const DARK_BELOW: f64 = 56.0;

/// A hatch drawn over a colour, so that it is not colour alone that tells.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Hatch {
    /// Lines rising to the right.
    Rising,
    /// Lines falling to the right.
    Falling,
    /// Both.
    Crossed,
}

/// One shade of a layer, and what it stands for.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Shade {
    /// What it stands for.
    pub name: String,
    /// Its figures, where it has some.
    pub figure: Option<String>,
    /// Its colour, as `#rrggbb`.
    pub colour: String,
    /// Whether ink reads on it; else paper does.
    pub ink: bool,
    /// A hatch over it.
    pub hatch: Option<Hatch>,
}

impl Shade {
    /// A shade of this colour.
    #[must_use]
    pub fn new(colour: &str, name: impl Into<String>, figure: Option<String>) -> Self {
        Self { name: name.into(), figure, colour: colour.to_owned(), ink: lightness(colour) >= DARK_BELOW, hatch: None }
    }

    /// The same under a hatch.
    #[must_use]
    pub fn hatched(self, hatch: Hatch) -> Self {
        Self { hatch: Some(hatch), ..self }
    }
}

/// Red, green and blue of a colour, linear, 0 to 1.
fn linear(colour: &str) -> [f64; 3] {
    let channel = |at: usize| {
        let value = f64::from(u8::from_str_radix(colour.get(at..at + 2).unwrap_or("00"), 16).unwrap_or(0)) / 255.0;
        if value <= 0.04045 { value / 12.92 } else { ((value + 0.055) / 1.055).powf(2.4) }
    };
    [channel(1), channel(3), channel(5)]
}

fn lightness_of([red, green, blue]: [f64; 3]) -> f64 {
    let y = 0.2126 * red + 0.7152 * green + 0.0722 * blue;
    if y <= 216.0 / 24389.0 { y * 24389.0 / 27.0 } else { 116.0 * y.cbrt() - 16.0 }
}

/// Lightness L* of a colour, 0 to 100.
///
/// # Source
/// IEC 61966-2-1 (sRGB) and CIE 15, as used for grey pictures.
#[must_use]
pub fn lightness(colour: &str) -> f64 {
    lightness_of(linear(colour))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// How the three kinds of dichromacy see linear RGB: Machado, Oliveira and Fernandes 2009, severity 1.0 (from memory).
    const SEEN: [[[f64; 3]; 3]; 3] = [
        [[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]],
        [[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]],
        [[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]],
    ];

    fn seen(colour: &str, by: &[[f64; 3]; 3]) -> f64 {
        let rgb = linear(colour);
        lightness_of(by.map(|row| row.iter().zip(rgb).map(|(a, b)| a * b).sum::<f64>().clamp(0.0, 1.0)))
    }

    #[test]
    fn each_step_is_told_from_the_next_in_grey_and_by_the_colour_blind() {
        let grey = [[0.2126, 0.7152, 0.0722]; 3];
        for eye in SEEN.iter().chain([&grey]) {
            let light: Vec<f64> = RAMP.iter().map(|colour| seen(colour, eye)).collect();
            for pair in light.windows(2) {
                assert!(pair[1] - pair[0] >= 7.0, "{light:?}");
            }
        }
    }

    #[test]
    fn words_read_on_every_shade() {
        let (ink, paper) = (linear("#20262e"), linear("#faf7f0"));
        let luminance = |rgb: [f64; 3]| 0.2126 * rgb[0] + 0.7152 * rgb[1] + 0.0722 * rgb[2];
        for colour in RAMP.iter().chain(&DIVERGING) {
            let shade = Shade::new(colour, "", None);
            let (a, b) = (luminance(linear(colour)), luminance(if shade.ink { ink } else { paper }));
            let contrast = (a.max(b) + 0.05) / (a.min(b) + 0.05);
            // WCAG 2.1, 1.4.3: large or bold text at least 3, other at least 4.5; the map's words are bold.
            assert!(contrast >= 3.4, "{colour}: {contrast}");
        }
    }

    #[test]
    fn worse_and_better_are_told_apart_by_more_than_colour() {
        let light = DIVERGING.map(lightness);
        assert!(light[2] > light[1] && light[1] > light[0] && light[2] > light[3] && light[3] > light[4], "{light:?}");
    }
}
