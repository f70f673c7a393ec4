//! Pictures as they are kept: JPEG, no larger than a screen, and without what a camera writes beside them (place, time, device).

use std::io::Cursor;

use image::codecs::jpeg::JpegEncoder;
use image::imageops::FilterType;
use image::{DynamicImage, ImageDecoder, ImageFormat, ImageReader, Limits};
use thiserror::Error;

/// Largest picture that is read, bytes: what phones of 50 megapixels write.
pub const PICTURE_LIMIT: usize = 24 * 1024 * 1024;
/// Longer side that is kept, pixels.
const SIDE_MOST: u32 = 1280;
/// Longer side that is read, pixels: what phones take.
const SIDE_READ: u32 = 16_384;
/// Pixels that are read at most: phones take 50 million.
const PIXELS_MOST: u64 = 64_000_000;
/// Memory that reading one may take, bytes: 50 megapixels of three or four bytes.
const MEMORY_MOST: u64 = 210_000_000;
/// JPEG quality: a label on a socket stays legible.
const QUALITY: u8 = 80;

/// Why something is no picture.
#[derive(Debug, Error)]
#[error("This is no picture that can be read ({0}); send a JPEG, PNG or WebP.")]
pub struct NoPicture(String);

/// The picture as it is kept: turned upright, at most 1280 pixels long, with nothing beside what is seen.
///
/// # Errors
/// [`NoPicture`] when it can't be read or would take too much memory; that is told by its head, before it is unpacked.
pub fn plain_jpeg(bytes: &[u8]) -> Result<Vec<u8>, NoPicture> {
    let no = |error: image::ImageError| NoPicture(error.to_string());
    let mut reader =
        ImageReader::new(Cursor::new(bytes)).with_guessed_format().map_err(|error| NoPicture(error.to_string()))?;
    reader.limits(limits());
    let format = reader.format();
    let mut decoder = reader.into_decoder().map_err(no)?;
    let (width, height) = decoder.dimensions();
    let pixels = u64::from(width) * u64::from(height);
    let memory = decoder.total_bytes().saturating_add(beside(format, bytes, pixels));
    if pixels > PIXELS_MOST || memory > MEMORY_MOST {
        return Err(NoPicture(format!("{width} x {height} pixels are more than is unpacked")));
    }
    let upright = decoder.orientation().map_err(no)?;
    let picture = DynamicImage::from_decoder(decoder).map_err(no)?;
    // Made smaller before it is turned, and roughly first: each holds a second copy of what it works on.
    let mut picture = within(picture, 2 * SIDE_MOST, |picture, side| picture.thumbnail(side, side));
    picture = within(picture, SIDE_MOST, |picture, side| picture.resize(side, side, FilterType::Triangle));
    picture.apply_orientation(upright);
    let mut jpeg = Vec::new();
    picture.to_rgb8().write_with_encoder(JpegEncoder::new_with_quality(&mut jpeg, QUALITY)).map_err(no)?;
    Ok(jpeg)
}

fn within(picture: DynamicImage, side: u32, shrink: impl Fn(&DynamicImage, u32) -> DynamicImage) -> DynamicImage {
    if picture.width().max(picture.height()) > side { shrink(&picture, side) } else { picture }
}

/// Bytes that a decoder works in beside what it gives back. A JPEG that comes in several passes is held whole as coefficients, two bytes for each of
/// three colours; a WebP as lines of four colours.
fn beside(format: Option<ImageFormat>, bytes: &[u8], pixels: u64) -> u64 {
    match format {
        Some(ImageFormat::Jpeg) if !in_one_pass(bytes) => pixels.saturating_mul(6),
        Some(ImageFormat::WebP) => pixels.saturating_mul(4),
        _ => 0,
    }
}

/// The picture as it is kept: byte for byte where it is as [`plain_jpeg`] writes it, else made anew.
///
/// # Errors
/// As [`plain_jpeg`].
pub fn kept_jpeg(bytes: Vec<u8>) -> Result<Vec<u8>, NoPicture> {
    if is_plain(&bytes) { Ok(bytes) } else { plain_jpeg(&bytes) }
}

/// Whether this is a JPEG of a size that is kept, that can be read, with nothing beside what is seen: no notes of a camera, nothing behind its end.
fn is_plain(bytes: &[u8]) -> bool {
    let Some(parts) = markers(bytes) else { return false };
    // Of JFIF (ITU-T T.871) the plain head of 16 bytes alone, tables, one frame, one scan up to the end of the file.
    let allowed = |(marker, length): &(u8, usize)| match *marker {
        0xe0 => *length == 16,
        0xc0 | 0xc4 | 0xda | 0xdb => true,
        _ => false,
    };
    let count = |marker: u8| parts.iter().filter(|own| own.0 == marker).count();
    if !parts.iter().all(allowed) || [0xe0, 0xc0, 0xda].iter().any(|own| count(*own) != 1) {
        return false;
    }
    let scan = bytes.windows(2).rposition(|two| two == [0xff, 0xda]).unwrap_or(0);
    // Within the scan 0xff is followed by 0 alone, so that the first end is the end.
    let ends = bytes[scan + 2..].windows(2).position(|two| two == [0xff, 0xd9]).map(|end| scan + 2 + end + 2);
    if ends != Some(bytes.len()) {
        return false;
    }
    let mut reader = ImageReader::with_format(Cursor::new(bytes), ImageFormat::Jpeg);
    reader.limits(limits());
    let small = |decoder: &dyn ImageDecoder| {
        let (width, height) = decoder.dimensions();
        width.max(height) <= SIDE_MOST
    };
    reader.into_decoder().is_ok_and(|decoder| small(&decoder) && DynamicImage::from_decoder(decoder).is_ok())
}

/// Whether a JPEG is of one pass (ITU-T T.81: the frame is none of the progressive ones); also where its head is no JPEG's.
fn in_one_pass(bytes: &[u8]) -> bool {
    let frame = markers(bytes).and_then(|all| {
        all.into_iter().find(|(own, _)| (0xc0..=0xcf).contains(own) && ![0xc4, 0xc8, 0xcc].contains(own))
    });
    frame.is_none_or(|(own, _)| own == 0xc0 || own == 0xc1)
}

/// The markers of a JPEG up to its first scan, each with the length of its part (ITU-T T.81, B.1); none where they are not well-formed.
fn markers(bytes: &[u8]) -> Option<Vec<(u8, usize)>> {
    let mut rest = bytes.strip_prefix(&[0xff, 0xd8])?;
    let mut list = Vec::new();
    loop {
        let (head, after) = rest.split_first_chunk::<4>()?;
        let (marker, length) = (head[1], usize::from(u16::from_be_bytes([head[2], head[3]])));
        if head[0] != 0xff || length < 2 {
            return None;
        }
        list.push((marker, length));
        if marker == 0xda {
            return Some(list);
        }
        rest = after.get(length - 2..)?;
    }
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
        assert!(is_plain(&kept) && !is_plain(&sent), "only what is kept has the size that is kept");
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

    fn written(picture: &RgbImage) -> Vec<u8> {
        let mut jpeg = Vec::new();
        picture.write_with_encoder(JpegEncoder::new_with_quality(&mut jpeg, 90)).expect("a JPEG");
        jpeg
    }

    #[test]
    fn a_picture_of_our_own_is_kept_byte_for_byte_and_any_other_is_made_anew() {
        let own = plain_jpeg(&written(&halves(1600, 900))).expect("a picture");
        assert_eq!(kept_jpeg(own.clone()).expect("kept"), own);
        let insert = |at: usize, more: &[u8]| [&own[..at], more, &own[at..]].concat();
        let comment = [&[0xff, 0xfe, 0, 9][..], b"by Mary"].concat();
        let exif = [&[0xff, 0xe1, 0, 14][..], b"Exif\x00\x0051.5 N"].concat();
        for (what, changed) in [
            ("behind its end", [&own[..], b"the key is under the pot"].concat()),
            ("behind a second end", [&own[..], b"x", &[0xff, 0xd9]].concat()),
            ("a comment", insert(2, &comment)),
            ("a camera's notes", insert(2, &exif)),
            ("another quality and size", written(&halves(1300, 20))),
        ] {
            let kept = kept_jpeg(changed.clone()).expect("a picture");
            assert!(kept != changed && is_plain(&kept), "{what}");
            for note in [&b"pot"[..], b"Mary", b"Exif"] {
                assert!(!kept.windows(note.len()).any(|own| own == note), "{what}");
            }
        }
    }

    #[test]
    fn what_would_take_too_much_memory_is_told_by_its_head() {
        // The frame's height and width stand behind its length and precision.
        let claims = |marker: u8, width: u16, height: u16| {
            let mut jpeg = written(&halves(16, 16));
            let frame = jpeg.windows(2).position(|two| two == [0xff, 0xc0]).expect("a frame");
            jpeg[frame + 1] = marker;
            jpeg[frame + 5..frame + 7].copy_from_slice(&height.to_be_bytes());
            jpeg[frame + 7..frame + 9].copy_from_slice(&width.to_be_bytes());
            plain_jpeg(&jpeg).err().is_some_and(|told| told.to_string().contains("more than is unpacked"))
        };
        assert!(
            claims(0xc0, 16_000, 16_000) && claims(0xc2, 6000, 5000),
            "too large, the second as it comes in passes"
        );
        assert!(!claims(0xc0, 8160, 6120) && !claims(0xc2, 4000, 3000), "a phone's");
    }

    #[test]
    fn a_photo_of_50_megapixels_goes_in_turned_too() {
        let wide = image::GrayImage::from_fn(8160, 6120, |x, _| image::Luma([if x < 4080 { 200 } else { 20 }]));
        let exif = [&b"II*\0\x08\0\0\0"[..], &[1, 0, 0x12, 1, 3, 0, 1, 0, 0, 0, 6, 0, 0, 0], &[0; 4]].concat();
        let mut sent = Vec::new();
        let mut encoder = JpegEncoder::new(&mut sent);
        encoder.set_exif_metadata(exif).expect("room for it");
        encoder.write_image(wide.as_raw(), 8160, 6120, ExtendedColorType::L8).expect("a JPEG");
        let kept = image::load_from_memory(&plain_jpeg(&sent).expect("a picture")).expect("a JPEG").to_luma8();
        assert_eq!((kept.width(), kept.height()), (960, 1280));
        assert!(kept.get_pixel(480, 100)[0] > 150 && kept.get_pixel(480, 1200)[0] < 80, "the left half is above now");
    }
}
