//! Films from files of stills: a zip of pictures, with `times.csv` if their times are known, or an animated GIF, PNG or WebP.
//!
//! [`unpack`] hands over frame by frame, so that a large file never lies unpacked in memory.

use std::borrow::Cow;
use std::io::{BufRead, Read, Seek};
use std::time::Duration;

use image::codecs::gif::GifDecoder;
use image::codecs::png::PngDecoder;
use image::codecs::webp::WebPDecoder;
use image::imageops::FilterType;
use image::{AnimationDecoder, DynamicImage, ImageDecoder, Limits};
use thiserror::Error;
use zip::ZipArchive;

use crate::picture::LONGEST_SIDE;
use crate::{MOST_PIXELS, PictureError, Rgb, jpeg};

/// Largest single picture in a zip, unpacked, in bytes.
const LARGEST_ENTRY: u64 = 40_000_000;
/// Largest `times.csv`, in bytes.
const LARGEST_TIMES: u64 = 1_000_000;

/// What is allowed, and how the frames are wanted.
#[derive(Clone, Copy, Debug)]
pub struct Wanted {
    /// Frames at most.
    pub most_frames: usize,
    /// Bytes of all frames at most, as JPEG.
    pub most_bytes: u64,
    /// Longest side of a frame in px; larger ones are made smaller.
    pub longest_side: u32,
    /// Frames a second, where the file has no times.
    pub rate: f64,
    /// JPEG quality, 1 to 100.
    pub quality: u8,
}

/// One frame of a film.
#[derive(Clone, Debug, PartialEq)]
pub struct Still {
    /// Its time in s.
    pub time: f64,
    /// Pixels across and down.
    pub size: (usize, usize),
    /// The picture.
    pub jpeg: Vec<u8>,
}

/// Why a file makes no film.
#[derive(Debug, Error)]
pub enum StillsError {
    /// Of no kind that is known.
    #[error("This file is neither a zip of stills nor an animated GIF, PNG or WebP.")]
    Unknown,
    /// Damaged or cut off.
    #[error("This file is damaged or cut off: {0}.")]
    Damaged(String),
    /// Nothing in it.
    #[error("There are fewer than two pictures in this file.")]
    Empty,
    /// A picture that cannot be read.
    #[error("Picture {number}: {error}.")]
    Picture {
        /// Its number, from 1.
        number: usize,
        /// What is wrong.
        error: PictureError,
    },
    /// Too much of something.
    #[error("{0}")]
    Limit(String),
    /// The times do not fit.
    #[error("times.csv, line {line}: {message}.")]
    Times {
        /// Line, from 1.
        line: usize,
        /// What is wrong.
        message: String,
    },
    /// Whoever asked wants no more.
    #[error("Stopped.")]
    Stopped,
}

/// Unpacks a file, calling `each` with every frame in order of time; `each` answers whether to go on.
///
/// # Errors
/// [`StillsError`]; frames handed over before are not taken back.
pub fn unpack<R: BufRead + Seek>(
    mut file: R,
    wanted: &Wanted,
    each: &mut dyn FnMut(Still) -> bool,
) -> Result<usize, StillsError> {
    let mut gate = Gate { wanted, each, frames: 0, bytes: 0, size: None };
    let mut head = Vec::new();
    Read::by_ref(&mut file).take(12).read_to_end(&mut head).map_err(damaged)?;
    file.rewind().map_err(damaged)?;
    match head[..] {
        [b'P', b'K', ..] => zipped(file, &mut gate)?,
        [b'G', b'I', b'F', ..] => {
            let mut decoder = GifDecoder::new(file).map_err(damaged)?;
            decoder.set_limits(limits()).map_err(picture(1))?;
            animated(decoder.into_frames(), &mut gate)?;
        }
        [0x89, b'P', b'N', b'G', ..] => {
            let decoder = PngDecoder::with_limits(file, limits()).map_err(picture(1))?;
            check_size(decoder.dimensions())?;
            animated(decoder.apng().map_err(damaged)?.into_frames(), &mut gate)?;
        }
        [b'R', b'I', b'F', b'F', _, _, _, _, b'W', b'E', b'B', b'P'] => {
            let decoder = WebPDecoder::new(file).map_err(damaged)?;
            check_size(decoder.dimensions())?;
            animated(decoder.into_frames(), &mut gate)?;
        }
        _ => return Err(StillsError::Unknown),
    }
    if gate.frames < 2 { Err(StillsError::Empty) } else { Ok(gate.frames) }
}

fn limits() -> Limits {
    let mut limits = Limits::default();
    limits.max_image_width = Some(LONGEST_SIDE);
    limits.max_image_height = Some(LONGEST_SIDE);
    limits.max_alloc = Some(16 * MOST_PIXELS);
    limits
}

fn damaged(error: impl std::fmt::Display) -> StillsError {
    StillsError::Damaged(error.to_string().trim_end_matches('.').to_owned())
}

fn picture(number: usize) -> impl Fn(image::ImageError) -> StillsError {
    move |error| {
        let large = matches!(error, image::ImageError::Limits(_));
        if large { StillsError::Picture { number, error: PictureError::TooLarge } } else { damaged(error) }
    }
}

fn check_size((width, height): (u32, u32)) -> Result<(), StillsError> {
    let fits = width.max(height) <= LONGEST_SIDE && u64::from(width) * u64::from(height) <= MOST_PIXELS;
    if fits { Ok(()) } else { Err(StillsError::Picture { number: 1, error: PictureError::TooLarge }) }
}

/// Counts frames and bytes before they are handed over.
struct Gate<'a> {
    wanted: &'a Wanted,
    each: &'a mut dyn FnMut(Still) -> bool,
    frames: usize,
    bytes: u64,
    size: Option<(usize, usize)>,
}

impl Gate<'_> {
    fn take(&mut self, time: f64, image: &DynamicImage) -> Result<(), StillsError> {
        let number = self.frames + 1;
        let most = self.wanted.most_frames;
        if number > most {
            return Err(StillsError::Limit(format!(
                "There are more than {most} pictures in this file. Take every second one, or a shorter part."
            )));
        }
        let longest = self.wanted.longest_side;
        let picture = if image.width().max(image.height()) > longest {
            Rgb::of(&image.resize(longest, longest, FilterType::Triangle))
        } else {
            Rgb::of(image)
        };
        let size = (picture.width, picture.height);
        let first = *self.size.get_or_insert(size);
        if first != size {
            return Err(StillsError::Damaged(format!(
                "picture {number} is {} × {} pixels, the first one {} × {}",
                size.0, size.1, first.0, first.1
            )));
        }
        let jpeg = jpeg(&picture, self.wanted.quality).map_err(|error| StillsError::Picture { number, error })?;
        self.bytes += jpeg.len() as u64;
        if self.bytes > self.wanted.most_bytes {
            let most = self.wanted.most_bytes / 1_000_000;
            return Err(StillsError::Limit(format!("The pictures take more than {most} MB. Choose a smaller size.")));
        }
        self.frames = number;
        if (self.each)(Still { time, size, jpeg }) { Ok(()) } else { Err(StillsError::Stopped) }
    }
}

fn animated(frames: image::Frames<'_>, gate: &mut Gate<'_>) -> Result<(), StillsError> {
    let mut time = Duration::ZERO;
    for frame in frames {
        let frame = frame.map_err(damaged)?;
        let shown = Duration::from(frame.delay());
        gate.take(time.as_secs_f64(), &DynamicImage::ImageRgba8(frame.into_buffer()))?;
        // A picture without a time of its own is shown for a tenth of a second, as browsers do.
        time += if shown.is_zero() { Duration::from_millis(100) } else { shown };
    }
    Ok(())
}

fn zipped<R: Read + Seek>(file: R, gate: &mut Gate<'_>) -> Result<(), StillsError> {
    let mut archive = ZipArchive::new(file).map_err(damaged)?;
    let is_picture = |name: &str| {
        let end = name.rsplit('.').next().unwrap_or("").to_ascii_lowercase();
        matches!(end.as_str(), "jpg" | "jpeg" | "png" | "webp") && !name.contains("__MACOSX")
    };
    let all = archive.file_names().map(|n| n.map(Cow::into_owned)).collect::<Result<Vec<_>, _>>().map_err(damaged)?;
    let mut names: Vec<String> = all.iter().filter(|n| is_picture(n)).cloned().collect();
    names.sort_by_key(|name| natural(name));
    if names.len() > gate.wanted.most_frames {
        let (many, most) = (names.len(), gate.wanted.most_frames);
        return Err(StillsError::Limit(format!("There are {many} pictures in this file; {most} are the most.")));
    }
    let own = all.iter().find(|n| n.rsplit('/').next() == Some("times.csv"));
    let times = match own {
        Some(name) => times(&entry(&mut archive, name, LARGEST_TIMES)?, names.len())?,
        None => (0..names.len()).map(|i| i as f64 / gate.wanted.rate).collect(),
    };
    for (i, (name, time)) in names.iter().zip(times).enumerate() {
        let number = i + 1;
        let bytes = entry(&mut archive, name, LARGEST_ENTRY)?;
        let image = crate::picture::read(&bytes).map_err(|error| StillsError::Picture { number, error })?;
        gate.take(time, &image)?;
    }
    Ok(())
}

/// Unpacks one entry, but never more than allowed, whatever the zip says of itself.
fn entry<R: Read + Seek>(archive: &mut ZipArchive<R>, name: &str, most: u64) -> Result<Vec<u8>, StillsError> {
    let file = archive.by_name(name).map_err(damaged)?;
    let mut bytes = Vec::new();
    file.take(most + 1).read_to_end(&mut bytes).map_err(damaged)?;
    if bytes.len() as u64 > most {
        return Err(StillsError::Limit(format!("{name} unpacks to more than {} MB.", most.div_ceil(1_000_000))));
    }
    Ok(bytes)
}

/// A name in parts, so that frame 10 comes after frame 9.
fn natural(name: &str) -> Vec<(u64, String)> {
    let mut parts = vec![(0, String::new())];
    let mut digits = String::new();
    for c in name.chars().chain(['\0']) {
        if c.is_ascii_digit() {
            digits.push(c);
            continue;
        }
        if !digits.is_empty() {
            parts.push((digits.parse().unwrap_or(u64::MAX), String::new()));
            digits.clear();
        }
        if let Some((_, text)) = parts.last_mut() {
            text.push(c);
        }
    }
    parts
}

/// Times in s, one a line or in the last column; a head is passed over.
///
/// # Errors
/// [`StillsError::Times`] when a line is no number, time does not go on, or their number is not that of the pictures.
pub fn times(file: &[u8], frames: usize) -> Result<Vec<f64>, StillsError> {
    let text = String::from_utf8_lossy(file);
    let mut times: Vec<f64> = Vec::new();
    for (i, line) in text.lines().enumerate().filter(|(_, l)| !l.trim().is_empty()) {
        let wrong = |message: String| StillsError::Times { line: i + 1, message };
        let last = line.rsplit([',', ';', '\t']).next().unwrap_or("").trim().trim_matches('"');
        match last.parse::<f64>() {
            Ok(time) if !time.is_finite() => return Err(wrong(format!("“{last}” is not a time"))),
            Ok(time) if times.last().is_some_and(|t| *t >= time) => {
                return Err(wrong(format!("{time} s does not come after the line before")));
            }
            Ok(time) => times.push(time),
            Err(_) if times.is_empty() => {}
            Err(_) => {
                let shown: String = last.chars().take(20).collect();
                return Err(wrong(format!("“{shown}” is not a time in seconds")));
            }
        }
    }
    if times.len() != frames {
        let message = format!("there are {} times for {frames} pictures", times.len());
        return Err(StillsError::Times { line: text.lines().count(), message });
    }
    Ok(times)
}
