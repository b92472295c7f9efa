//! Films from files of stills: what is taken, what is refused, and that nothing of it harms.

use std::io::{Cursor, Write};

use proptest::prelude::*;
use zeitmass_film::stills::{Still, StillsError, Wanted, times, unpack};
use zeitmass_film::strobe::{Blend, add};
use zeitmass_film::{Grey, Rgb, jpeg};
use zip::ZipWriter;
use zip::write::SimpleFileOptions;

const WANTED: Wanted = Wanted { most_frames: 20, most_bytes: 2_000_000, longest_side: 160, rate: 25.0, quality: 90 };

fn plain(level: u8, width: usize, height: usize) -> Vec<u8> {
    jpeg(&Rgb { width, height, data: vec![level; 3 * width * height] }, 90).unwrap()
}

fn zip(entries: &[(&str, Vec<u8>)]) -> Vec<u8> {
    let mut out = ZipWriter::new(Cursor::new(Vec::new()));
    for (name, bytes) in entries {
        out.start_file(*name, SimpleFileOptions::default()).unwrap();
        out.write_all(bytes).unwrap();
    }
    out.finish().unwrap().into_inner()
}

fn all(file: &[u8], wanted: &Wanted) -> Result<Vec<Still>, StillsError> {
    let mut stills = Vec::new();
    unpack(Cursor::new(file), wanted, &mut |s| {
        stills.push(s);
        true
    })?;
    Ok(stills)
}

fn level(still: &Still) -> u8 {
    Grey::read(&still.jpeg).unwrap().data[0]
}

#[test]
fn stills_come_in_the_order_people_count_in_and_keep_their_times() {
    let pictures = [("still 10.jpg", 100), ("still 9.jpg", 90), ("still 1.jpg", 10)];
    let mut entries: Vec<_> = pictures.iter().map(|(n, l)| (*n, plain(*l, 40, 30))).collect();
    let evenly = all(&zip(&entries), &WANTED).unwrap();
    assert_eq!(evenly.iter().map(level).collect::<Vec<_>>(), [10, 90, 100]);
    assert_eq!(evenly.iter().map(|s| s.time).collect::<Vec<_>>(), [0.0, 0.04, 0.08]);
    entries.push(("times.csv", b"frame,t (s)\n1,0.1\n2,0.25\n3,0.3\n".to_vec()));
    let timed = all(&zip(&entries), &WANTED).unwrap();
    assert_eq!(timed.iter().map(|s| s.time).collect::<Vec<_>>(), [0.1, 0.25, 0.3]);
    entries[0].1 = plain(50, 400, 300);
    entries[1].1 = plain(50, 400, 300);
    entries[2].1 = plain(50, 400, 300);
    assert_eq!(all(&zip(&entries), &WANTED).unwrap()[0].size, (160, 120));
}

#[test]
fn animated_pictures_become_films() {
    let mut file = Vec::new();
    {
        let mut encoder = image::codecs::gif::GifEncoder::new(&mut file);
        for level in [20u8, 120, 220] {
            let picture = image::RgbaImage::from_pixel(32, 24, image::Rgba([level, level, level, 255]));
            let delay = image::Delay::from_numer_denom_ms(40, 1);
            encoder.encode_frame(image::Frame::from_parts(picture, 0, 0, delay)).unwrap();
        }
    }
    let stills = all(&file, &WANTED).unwrap();
    assert_eq!(stills.iter().map(|s| s.time).collect::<Vec<_>>(), [0.0, 0.04, 0.08]);
    assert!(stills.iter().map(level).zip([20u8, 120, 220]).all(|(a, b)| a.abs_diff(b) < 4));
    // Cut off in the middle: refused with words.
    let said = all(&file[..file.len() / 2], &WANTED).unwrap_err().to_string();
    assert!(said.contains("damaged") || said.contains("fewer than two"), "{said}");
}

#[test]
fn files_that_make_no_film_are_refused_with_a_reason() {
    let said = |file: &[u8]| all(file, &WANTED).unwrap_err().to_string();
    assert!(said(b"").contains("neither a zip of stills"));
    assert!(said(b"PK\x03\x04 not really").contains("damaged"));
    assert!(said(&zip(&[("a.jpg", plain(9, 40, 30))])).contains("fewer than two"));
    assert!(said(&zip(&[("notes.txt", b"hello".to_vec())])).contains("fewer than two"));
    assert!(said(&zip(&[("1.jpg", plain(9, 40, 30)), ("2.jpg", b"no picture".to_vec())])).contains("Picture 2"));
    assert!(said(&zip(&[("1.jpg", plain(9, 40, 30)), ("2.jpg", plain(9, 30, 40))])).contains("30 × 40"));
    let many: Vec<(String, Vec<u8>)> = (0..21).map(|i| (format!("{i}.jpg"), plain(9, 8, 8))).collect();
    let many: Vec<(&str, Vec<u8>)> = many.iter().map(|(n, b)| (n.as_str(), b.clone())).collect();
    assert!(said(&zip(&many)).contains("20 are the most"));
    let two = [("1.jpg", plain(9, 40, 30)), ("2.jpg", plain(9, 40, 30))];
    for (list, wrong) in
        [("0\n0\n", "line 2"), ("0\n1\n2\n", "3 times for 2"), ("0\nlater\n", "not a time"), ("0\nNaN\n", "not a time")]
    {
        let mut entries = two.to_vec();
        entries.push(("times.csv", list.as_bytes().to_vec()));
        assert!(said(&zip(&entries)).contains(wrong), "{list}: {}", said(&zip(&entries)));
    }
}

#[test]
fn a_zip_bomb_and_giant_pictures_are_stopped() {
    // 60 MB of zeros pack into some 60 kB.
    let bomb = zip(&[("1.jpg", vec![0; 60_000_000]), ("2.jpg", vec![0; 10])]);
    assert!(bomb.len() < 200_000);
    assert!(all(&bomb, &WANTED).unwrap_err().to_string().contains("unpacks to more than 40 MB"));
    // A header that promises 10,000 by 10,000 pixels, with next to nothing behind it.
    let mut png = Vec::new();
    let side = image::GrayImage::new(8, 8);
    image::DynamicImage::ImageLuma8(side).write_to(&mut Cursor::new(&mut png), image::ImageFormat::Png).unwrap();
    png[16..24].copy_from_slice(&[0, 0, 0x27, 0x10, 0, 0, 0x27, 0x10]);
    assert!(all(&zip(&[("1.png", png.clone()), ("2.png", png.clone())]), &WANTED).is_err());
    assert!(all(&png, &WANTED).is_err());
}

/// A picture with something in every corner, so that no part of it packs to nothing.
fn busy(format: image::ImageFormat) -> Vec<u8> {
    let picture = image::RgbImage::from_fn(64, 48, |x, y| {
        image::Rgb([((x * 37) ^ (y * 11)) as u8, (y * 53) as u8, (x * y) as u8])
    });
    let mut out = Cursor::new(Vec::new());
    image::DynamicImage::ImageRgb8(picture).write_to(&mut out, format).unwrap();
    out.into_inner()
}

#[test]
fn a_picture_that_is_cut_off_is_refused_wherever_the_cut_is() {
    use image::ImageFormat::{Gif, Jpeg, Png, WebP};
    for format in [Jpeg, Png, Gif, WebP] {
        let whole = busy(format);
        assert!(Rgb::read(&whole).is_ok() && Grey::read(&whole).is_ok(), "{format:?}");
        // What comes after the last pixel, a checksum and a mark of the end, may be missing.
        for cut in 0..whole.len() - 16 {
            let part = &whole[..cut];
            assert!(
                Rgb::read(part).is_err() && Grey::read(part).is_err(),
                "{format:?} cut at {cut} of {}",
                whole.len()
            );
        }
    }
}

#[test]
fn whoever_asked_can_stop() {
    let file = zip(&[("1.jpg", plain(1, 8, 8)), ("2.jpg", plain(2, 8, 8)), ("3.jpg", plain(3, 8, 8))]);
    let mut seen = 0;
    let outcome = unpack(Cursor::new(&file), &WANTED, &mut |_| {
        seen += 1;
        seen < 2
    });
    assert!(matches!(outcome, Err(StillsError::Stopped)) && seen == 2);
}

proptest! {
    /// A strobe picture is the pixel's extreme, in whatever order the pictures come.
    #[test]
    fn strobe_pictures_do_not_depend_on_order(a in prop::collection::vec(any::<u8>(), 12), b in prop::collection::vec(any::<u8>(), 12)) {
        let picture = |data: &[u8]| Rgb { width: 2, height: 2, data: data.to_vec() };
        for (blend, pick) in [(Blend::Lighten, u8::max as fn(u8, u8) -> u8), (Blend::Darken, u8::min)] {
            let (mut one, mut other) = (picture(&a), picture(&b));
            add(&mut one, &picture(&b), blend).unwrap();
            add(&mut other, &picture(&a), blend).unwrap();
            prop_assert_eq!(&one, &other);
            prop_assert!(one.data.iter().zip(a.iter().zip(&b)).all(|(s, (a, b))| *s == pick(*a, *b)));
        }
        let other = Rgb { width: 4, height: 1, data: a.clone() };
        prop_assert!(add(&mut picture(&a), &other, Blend::Darken).is_err());
    }

    #[test]
    fn no_bytes_make_the_unpacker_panic(head in prop::sample::select(vec![&b"PK\x03\x04"[..], b"GIF89a", b"\x89PNG\r\n\x1a\n", b"RIFF\0\0\0\0WEBP", b""]), tail in prop::collection::vec(any::<u8>(), 0..200), list in "[0-9,.\\neE-]{0,60}") {
        prop_assert!(all(&[head, &tail[..]].concat(), &WANTED).is_err());
        let _ = times(list.as_bytes(), 3);
    }
}
