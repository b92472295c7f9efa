//! Whatever reads bytes from outside, fed with bytes that were right once: changed here and there, cut, doubled, with huge numbers. Each
//! reader has five seconds, or as many as `ZEITMASS_READERS_SECONDS` says; memory is capped, so that whoever makes room for what a file
//! only claims ends this program. Bytes that end or hold up a reader are left in a file of the temporary folder; with `ZEITMASS_READERS_KEEP`
//! each is written before it is read, for those that end the whole program.

mod targets;

use std::alloc::System;
use std::fs;
use std::io::{Cursor, Write};
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

use cap::Cap;
use rand::rngs::StdRng;
use rand::{RngExt, SeedableRng};
use targets::READERS;
use zeitmass_film::{Rgb, jpeg};

#[global_allocator]
static HEAP: Cap<System> = Cap::new(System, 900_000_000);

/// Numbers that files claim, and what means something to one reader or another.
const WORDS: [&str; 28] = [
    "18446744073709551615",
    "-9223372036854775808",
    "999999999",
    "1e308",
    "-0.0",
    "NaN",
    "4294967295",
    "0",
    "",
    "null",
    "[]",
    "{}",
    "\"\"",
    "((((((((",
    "))))",
    "^^",
    "rate(",
    "mean(",
    "[m/s^2]",
    "\u{0}",
    "&#0;",
    "&#x10FFFF;",
    "<!--",
    "]]>",
    "XFD1048576",
    "table:number-columns-repeated=\"16384\"",
    "+++",
    "\n",
];

fn changed(bytes: &[u8], others: &[Vec<u8>], rng: &mut StdRng) -> Vec<u8> {
    let mut out = bytes.to_vec();
    for _ in 0..rng.random_range(1..=6) {
        let at = rng.random_range(0..=out.len());
        let end = (at + rng.random_range(0..=40)).min(out.len());
        match rng.random_range(0..8) {
            0 if !out.is_empty() => out[at.min(end.saturating_sub(1))] = rng.random(),
            1 => drop(out.drain(at..end)),
            2 => out.truncate(at),
            3 => drop(out.splice(at..at, out[at..end].to_vec())),
            4 => drop(out.splice(at..at, WORDS[rng.random_range(0..WORDS.len())].bytes())),
            // A number becomes another one.
            5 => {
                let digits = out[at..].iter().position(u8::is_ascii_digit).map(|k| at + k);
                if let Some(from) = digits {
                    let to = from + out[from..].iter().take_while(|b| b.is_ascii_digit()).count();
                    out.splice(from..to, WORDS[rng.random_range(0..9)].bytes());
                }
            }
            // A piece of another file.
            6 => {
                let other = &others[rng.random_range(0..others.len())];
                let from = rng.random_range(0..=other.len());
                let to = (from + rng.random_range(0..=400)).min(other.len());
                out.splice(at..end, other[from..to].iter().copied());
            }
            _ => {
                let times = 1 << rng.random_range(0..10);
                let piece = out[at..end].repeat(times);
                out.splice(at..end, piece);
            }
        }
        out.truncate(200_000);
    }
    out
}

fn zipped(parts: &[(&str, Vec<u8>)]) -> Vec<u8> {
    let mut zip = zip::ZipWriter::new(Cursor::new(Vec::new()));
    for (name, part) in parts {
        zip.start_file(*name, zip::write::SimpleFileOptions::default()).unwrap();
        zip.write_all(part).unwrap();
    }
    zip.finish().unwrap().into_inner()
}

fn pictures() -> Vec<Vec<u8>> {
    let picture = image::RgbImage::from_fn(24, 16, |x, y| image::Rgb([(x * 9) as u8, (y * 15) as u8, (x * y) as u8]));
    let picture = image::DynamicImage::ImageRgb8(picture);
    let formats = [image::ImageFormat::Png, image::ImageFormat::Gif, image::ImageFormat::WebP];
    let mut all: Vec<Vec<u8>> = formats
        .into_iter()
        .map(|format| {
            let mut out = Cursor::new(Vec::new());
            picture.write_to(&mut out, format).unwrap();
            out.into_inner()
        })
        .collect();
    all.push(jpeg(&Rgb { width: 24, height: 16, data: picture.into_rgb8().into_raw() }, 80).unwrap());
    all
}

/// Bytes to begin with, for a reader.
fn seeds(reader: &str) -> Vec<Vec<u8>> {
    let here = Path::new(env!("CARGO_MANIFEST_DIR"));
    let file = |path: &str| fs::read(here.join(path)).unwrap();
    let inside = |zip: &str, part: &str| {
        let mut archive = zip::ZipArchive::new(Cursor::new(file(zip))).unwrap();
        let mut bytes = Vec::new();
        std::io::Read::read_to_end(&mut archive.by_name(part).unwrap(), &mut bytes).unwrap();
        bytes
    };
    let (ods, xlsx) = ("tests/fixtures/odfpy.ods", "tests/fixtures/openpyxl.xlsx");
    match reader {
        "table" => {
            vec![file(ods), file(xlsx), b"L (m);t (s)\n0,2;1.25\n\xE4;7\n".to_vec(), b"\xFF\xFEL\0\n\x001\0".to_vec()]
        }
        "ods_content" => vec![inside(ods, "content.xml")],
        "xlsx_cells" => vec![inside(xlsx, "xl/worksheets/sheet1.xml")],
        "xlsx_words" => vec![b"<sst count=\"2\" uniqueCount=\"2\"><si><t>L (m)</t></si><si><r><t>t</t></r><r><t> (s)</t></r><rPh><t>te</t></rPh></si></sst>".to_vec()],
        "picture" => pictures(),
        "stills" => {
            let all = pictures();
            let times = ("times.csv", b"n,t (s)\n1,0.1\n2,0.2\n".to_vec());
            let zip = zipped(&[("1.jpg", all[3].clone()), ("2.jpg", all[3].clone()), times]);
            all.into_iter().chain([zip]).collect()
        }
        "stills_times" => vec![b"frame,t (s)\n1,0.1\n2,0.25\n3,0.3\n".to_vec()],
        "lab_sheet" => zeitmass_web::SHIPPED_SHEETS.iter().map(|(_, text)| text.as_bytes().to_vec()).collect(),
        "formula" => {
            let texts =
                ["4*pi*(d/2)^2", "sqrt(h) + 9.81 [m/s^2] * t", "rate(x, t, 5)/mean(t)", "-(a-b)/(c+1e-3)", "atan(y/x)"];
            texts.iter().map(|t| t.as_bytes().to_vec()).collect()
        }
        "logbook" => {
            let states: serde_json::Value =
                serde_json::from_slice(&file("../store/tests/fixtures/store-1/states.json")).unwrap();
            states.as_array().unwrap().iter().map(|book| book[1]["state"].to_string().into_bytes()).collect()
        }
        "edit" => {
            let edits = [
                r#"{"record":{"type_cell":{"row":"below","column":1,"typed":"0.41","was":null}}}"#,
                r#"{"record":{"paste":{"table":1,"name":"","row":"below","column":null,"text":"L (m)\tt10 (s)\n0.2\t9.0\n0.4\t12.6"}}}"#,
                r#"{"record":{"add_column":{"table":1,"kind":"worked","text":{"name":"a","symbol":"a","unit":"","formula":"L*2"}}}}"#,
                r#"{"graph":{"choose_axes":{"graph":1,"x":1,"y":2}}}"#,
                r#"{"writing":{"write":{"field":"claim","text":"it rises","was":""}}}"#,
            ];
            edits.iter().map(|t| t.as_bytes().to_vec()).collect()
        }
        other => panic!("{other} has no seeds"),
    }
}

fn at_work(reader: &str) -> PathBuf {
    std::env::temp_dir().join(format!("zeitmass-reader-{reader}-{}", std::process::id()))
}

#[test]
fn no_bytes_from_outside_end_hang_or_fill_the_program() {
    let seconds = std::env::var("ZEITMASS_READERS_SECONDS").ok().and_then(|s| s.parse().ok()).unwrap_or(5);
    let only = std::env::var("ZEITMASS_READER").ok();
    let keep = std::env::var_os("ZEITMASS_READERS_KEEP").is_some();
    let seed: u64 =
        std::env::var("ZEITMASS_READERS_SEED").ok().and_then(|s| s.parse().ok()).unwrap_or_else(rand::random);
    let wanted: Vec<_> = READERS.iter().filter(|(name, _)| only.as_deref().is_none_or(|o| o == *name)).collect();
    std::thread::scope(|scope| {
        // Two at a time take half as long on two cores.
        for half in wanted.chunks(wanted.len().div_ceil(2)) {
            scope.spawn(move || {
                for (name, read) in half {
                    let (mut rng, begun, mut times) = (StdRng::seed_from_u64(seed), Instant::now(), 0u64);
                    let seeds = seeds(name);
                    seeds.iter().for_each(|bytes| read(bytes));
                    if let Some(corpus) = std::env::var_os("ZEITMASS_READERS_CORPUS") {
                        let folder = Path::new(&corpus).join(name);
                        fs::create_dir_all(&folder).unwrap();
                        seeds
                            .iter()
                            .zip(0..)
                            .for_each(|(s, k)| fs::write(folder.join(format!("seed-{k}")), s).unwrap());
                    }
                    let path = at_work(name);
                    while begun.elapsed() < Duration::from_secs(seconds) {
                        let bytes = changed(&seeds[rng.random_range(0..seeds.len())], &seeds, &mut rng);
                        if keep {
                            fs::write(&path, &bytes).unwrap();
                        }
                        let one = Instant::now();
                        let outcome = std::panic::catch_unwind(|| read(&bytes));
                        if outcome.is_err() || one.elapsed() > Duration::from_secs(20) {
                            fs::write(&path, &bytes).unwrap();
                            panic!("{name}: these bytes end it or hold it up: {}", path.display());
                        }
                        times += 1;
                    }
                    let _ = fs::remove_file(&path);
                    let _ = writeln!(std::io::stdout(), "{name}: {times} files, seed {seed}");
                }
            });
        }
    });
}
