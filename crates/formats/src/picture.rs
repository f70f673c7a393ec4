//! Pictures as they are kept: JPEG, no larger than a screen, and without what a camera writes beside them (place, time, device).

use std::io::Cursor;

use image::codecs::jpeg::JpegEncoder;
use image::{DynamicImage, ImageDecoder, ImageFormat, ImageReader, Limits};
use thiserror::Error;

/// Largest picture that is read, bytes.
pub const PICTURE_LIMIT: usize = 12 * 1024 * 1024;
/// Longer side that is kept, pixels.
const SIDE_MOST: u32 = 1280;
/// Longer side that is read, pixels: what phones take.
const SIDE_READ: u32 = 16_384;
/// Memory that reading one may take, bytes.
const MEMORY_MOST: u64 = 256 * 1024 * 1024;
/// JPEG quality: a label on a socket stays legible.
const QUALITY: u8 = 80;

/// Why something is no picture.
#[derive(Debug, Error)]
#[error("This is no picture that can be read ({0}); send a JPEG, PNG or WebP.")]
pub struct NoPicture(String);

/// The picture as it is kept: turned upright, at most 1280 pixels long, with nothing beside what is seen.
///
/// # Errors
/// [`NoPicture`] when it can't be read or would take too much memory.
pub fn plain_jpeg(bytes: &[u8]) -> Result<Vec<u8>, NoPicture> {
    let no = |error: image::ImageError| NoPicture(error.to_string());
    let mut reader =
        ImageReader::new(Cursor::new(bytes)).with_guessed_format().map_err(|error| NoPicture(error.to_string()))?;
    reader.limits(limits());
    let mut decoder = reader.into_decoder().map_err(no)?;
    let upright = decoder.orientation().map_err(no)?;
    let mut picture = DynamicImage::from_decoder(decoder).map_err(no)?;
    picture.apply_orientation(upright);
    if picture.width().max(picture.height()) > SIDE_MOST {
        picture = picture.resize(SIDE_MOST, SIDE_MOST, image::imageops::FilterType::Triangle);
    }
    let mut jpeg = Vec::new();
    picture.to_rgb8().write_with_encoder(JpegEncoder::new_with_quality(&mut jpeg, QUALITY)).map_err(no)?;
    Ok(jpeg)
}

/// Whether this is a JPEG that can be read, of a size that is kept.
#[must_use]
pub fn is_jpeg(bytes: &[u8]) -> bool {
    let mut reader = ImageReader::with_format(Cursor::new(bytes), ImageFormat::Jpeg);
    reader.limits(limits());
    reader.decode().is_ok_and(|picture| picture.width().max(picture.height()) <= SIDE_MOST)
}

fn limits() -> Limits {
    let mut limits = Limits::default();
    limits.max_image_width = Some(SIDE_READ);
    limits.max_image_height = Some(SIDE_READ);
    limits.max_alloc = Some(MEMORY_MOST);
    limits
}

#[cfg(test)]
mod tests {
    use image::{ExtendedColorType, ImageEncoder, Rgb, RgbImage};

    use super::*;

    /// Left half red, right half blue.
    fn halves(width: u32, height: u32) -> RgbImage {
        RgbImage::from_fn(width, height, |x, _| if x < width / 2 { Rgb([220, 20, 20]) } else { Rgb([20, 20, 220]) })
    }

    #[test]
    fn what_a_camera_writes_beside_a_picture_goes_and_it_stands_upright() {
        // EXIF (TIFF 6.0, little-endian): one entry, orientation (274) = 6, which says "turn it right by a quarter".
        let exif = [
            b"II*\0\x08\0\0\0".as_slice(),
            &[1, 0],
            &[0x12, 1, 3, 0, 1, 0, 0, 0, 6, 0, 0, 0],
            &[0, 0, 0, 0],
            b"51.5 north, taken at the canal",
        ]
        .concat();
        let mut sent = Vec::new();
        let mut encoder = JpegEncoder::new(&mut sent);
        encoder.set_exif_metadata(exif).expect("room for it");
        encoder.write_image(&halves(2000, 1000), 2000, 1000, ExtendedColorType::Rgb8).expect("a JPEG");
        assert!(sent.windows(5).any(|own| own == b"canal"), "the camera wrote where it was");

        let kept = plain_jpeg(&sent).expect("a picture");
        assert!(!kept.windows(5).any(|own| own == b"canal") && !kept.windows(4).any(|own| own == b"Exif"));
        assert!(is_jpeg(&kept) && !is_jpeg(&sent), "only what is kept has the size that is kept");
        let kept = image::load_from_memory(&kept).expect("a JPEG").to_rgb8();
        assert_eq!((kept.width(), kept.height()), (640, 1280));
        assert!(kept.get_pixel(320, 100)[0] > 150, "the left half is above now");
        assert!(kept.get_pixel(320, 1100)[2] > 150, "and the right half below");
    }

    #[test]
    fn what_is_no_picture_is_told() {
        for bytes in [&b""[..], b"hello", &[0xff, 0xd8, 0xff, 0xe0, 0, 1, 2, 3], b"<svg onload=alert(1)>", b"GIF89a"] {
            let told = plain_jpeg(bytes).expect_err("no picture").to_string();
            assert!(told.contains("send a JPEG, PNG or WebP"), "{told}");
        }
    }

    #[test]
    fn a_picture_that_claims_to_be_huge_is_not_read() {
        let mut png = Vec::new();
        image::codecs::png::PngEncoder::new(&mut png)
            .write_image(&[0; 30], 10, 1, ExtendedColorType::Rgb8)
            .expect("a PNG");
        // Width and height stand in the header; the checksum behind it is put right so that only the size is wrong.
        png[16..24].copy_from_slice(&[0, 0, 0xff, 0xff, 0, 0, 0xff, 0xff]);
        let sum = crc(&png[12..29]);
        png[29..33].copy_from_slice(&sum.to_be_bytes());
        assert!(plain_jpeg(&png).is_err());
    }

    /// CRC-32 (ISO 3309), as PNG has it.
    fn crc(bytes: &[u8]) -> u32 {
        !bytes.iter().fold(!0u32, |crc, byte| {
            (0..8).fold(crc ^ u32::from(*byte), |crc, _| (crc >> 1) ^ (0xedb8_8320 & (crc & 1).wrapping_neg()))
        })
    }
}
