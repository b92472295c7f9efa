//! Pictures in memory, and JPEG in and out of it.

use std::io::Cursor;

use image::codecs::jpeg::JpegEncoder;
use image::{DynamicImage, ExtendedColorType, ImageReader, Limits, RgbImage};
use thiserror::Error;
use zune_core::bytestream::ZCursor;
use zune_core::colorspace::ColorSpace;
use zune_core::options::DecoderOptions;
use zune_jpeg::JpegDecoder;

/// Most pixels of a frame: 4096 × 2304.
pub const MOST_PIXELS: u64 = 4096 * 2304;
/// Longest side of a frame, in pixels.
pub(crate) const LONGEST_SIDE: u32 = 4096;
/// What a JPEG begins with.
const JPEG: [u8; 2] = [0xFF, 0xD8];
/// Where the pixels of a JPEG begin, and where it ends.
const SCAN: [u8; 2] = [0xFF, 0xDA];
const END: [u8; 2] = [0xFF, 0xD9];

/// Why a picture cannot be used.
#[derive(Debug, Error)]
pub enum PictureError {
    /// Damaged, cut off, or of another kind than it says.
    #[error("this picture cannot be read ({0})")]
    Unreadable(String),
    /// Too many pixels.
    #[error("the picture is larger than {LONGEST_SIDE} pixels a side or {} megapixels in all", MOST_PIXELS / 1_000_000)]
    TooLarge,
}

/// A picture in colour, three bytes a pixel, row by row.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Rgb {
    /// Pixels across.
    pub width: usize,
    /// Pixels down.
    pub height: usize,
    /// Red, green, blue; `3 * width * height` bytes.
    pub data: Vec<u8>,
}

/// A grey picture, one byte a pixel, row by row.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Grey {
    /// Pixels across.
    pub width: usize,
    /// Pixels down.
    pub height: usize,
    /// `width * height` bytes.
    pub data: Vec<u8>,
}

pub(crate) fn read(bytes: &[u8]) -> Result<DynamicImage, PictureError> {
    let unreadable = |e: &dyn std::fmt::Display| PictureError::Unreadable(e.to_string());
    if bytes.starts_with(&JPEG) {
        let (width, height, data) = unpack_jpeg(bytes, ColorSpace::RGB)?;
        let buffer = RgbImage::from_raw(width as u32, height as u32, data);
        return buffer.map(DynamicImage::ImageRgb8).ok_or_else(|| unreadable(&"its pixels are not all there"));
    }
    let mut reader = ImageReader::new(Cursor::new(bytes)).with_guessed_format().map_err(|e| unreadable(&e))?;
    let mut limits = Limits::default();
    limits.max_image_width = Some(LONGEST_SIDE);
    limits.max_image_height = Some(LONGEST_SIDE);
    limits.max_alloc = Some(8 * MOST_PIXELS);
    reader.limits(limits);
    let picture = reader
        .decode()
        .map_err(|e| if matches!(e, image::ImageError::Limits(_)) { PictureError::TooLarge } else { unreadable(&e) })?;
    if u64::from(picture.width()) * u64::from(picture.height()) > MOST_PIXELS {
        return Err(PictureError::TooLarge);
    }
    Ok(picture)
}

impl Rgb {
    /// Reads a JPEG, PNG, GIF or WebP picture.
    ///
    /// # Errors
    /// [`PictureError`]; its size is checked before its pixels are unpacked.
    pub fn read(bytes: &[u8]) -> Result<Self, PictureError> {
        Ok(Self::of(&read(bytes)?))
    }

    pub(crate) fn of(picture: &DynamicImage) -> Self {
        let data = picture.to_rgb8();
        Self { width: data.width() as usize, height: data.height() as usize, data: data.into_raw() }
    }

    /// The brightness of each pixel (ITU-R BT.601 weights).
    pub fn grey(&self) -> Grey {
        let weigh =
            |p: &[u8]| ((299 * u32::from(p[0]) + 587 * u32::from(p[1]) + 114 * u32::from(p[2]) + 500) / 1000) as u8;
        Grey { width: self.width, height: self.height, data: self.data.chunks_exact(3).map(weigh).collect() }
    }
}

impl Grey {
    /// The brightness of a picture. A JPEG's is unpacked without its colours.
    ///
    /// # Errors
    /// [`PictureError`].
    pub fn read(bytes: &[u8]) -> Result<Self, PictureError> {
        if !bytes.starts_with(&JPEG) {
            return Ok(Rgb::read(bytes)?.grey());
        }
        let (width, height, data) = unpack_jpeg(bytes, ColorSpace::Luma)?;
        Ok(Self { width, height, data })
    }
}

/// Width, height and pixels of a JPEG, all of them there: one that is cut off is refused, not filled up with grey.
fn unpack_jpeg(bytes: &[u8], colours: ColorSpace) -> Result<(usize, usize, Vec<u8>), PictureError> {
    let unreadable = |e: &dyn std::fmt::Debug| PictureError::Unreadable(format!("{e:?}"));
    // Neither mark can be among the pixels (ITU-T T.81, B.1.1.5), so the end has to come after the last scan begins.
    let last = |mark: [u8; 2]| bytes.windows(2).rposition(|pair| pair == mark);
    if last(END) < last(SCAN) || last(END).is_none() {
        return Err(PictureError::Unreadable("its end is missing".to_owned()));
    }
    let side = LONGEST_SIDE as usize;
    let options = DecoderOptions::default()
        .set_strict_mode(true)
        .set_max_width(side)
        .set_max_height(side)
        .jpeg_set_out_colorspace(colours);
    let mut decoder = JpegDecoder::new_with_options(ZCursor::new(bytes), options);
    decoder.decode_headers().map_err(|e| unreadable(&e))?;
    let (width, height) = decoder.dimensions().ok_or(PictureError::TooLarge)?;
    if (width * height) as u64 > MOST_PIXELS {
        return Err(PictureError::TooLarge);
    }
    let data = decoder.decode().map_err(|e| unreadable(&e))?;
    if data.len() != width * height * colours.num_components() {
        return Err(PictureError::Unreadable("its pixels are not all there".to_owned()));
    }
    Ok((width, height, data))
}

/// Packs a picture as JPEG, `quality` 1 to 100.
///
/// # Errors
/// [`PictureError::Unreadable`] when the data does not fill the picture.
pub fn jpeg(picture: &Rgb, quality: u8) -> Result<Vec<u8>, PictureError> {
    let mut out = Vec::new();
    JpegEncoder::new_with_quality(&mut out, quality)
        .encode(&picture.data, picture.width as u32, picture.height as u32, ExtendedColorType::Rgb8)
        .map_err(|e| PictureError::Unreadable(e.to_string()))?;
    Ok(out)
}
