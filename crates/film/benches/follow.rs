//! How fast objects are followed. `cargo bench -p zeitmass-film --bench follow [-- FOLDER]` prints JSON; with a folder it
//! writes the pictures there, so that `benches/film` can give the same to OpenCV.

use std::io::Write;
use std::path::PathBuf;
use std::time::Instant;

use zeitmass_film::Grey;
use zeitmass_film::camera::{Camera, Mover, Shoot, Silhouette};
use zeitmass_film::follow::{Follower, Found, match_template};

const FRAMES: usize = 240;
const SIDE: usize = 33;
/// Places of the search region in each direction.
const PLACES: usize = 49;

fn shoot() -> Shoot {
    let path = |t: f64| ([-2.6 + 1.2 * t, -0.8 + 0.9 * t - 0.2 * t * t], 0.0);
    let shapes = vec![
        Silhouette::Disc { centre: [0.0, 0.0], radius: 0.12, colour: [50, 60, 70] },
        Silhouette::Disc { centre: [0.03, 0.02], radius: 0.05, colour: [230, 220, 200] },
    ];
    let mover = Mover { name: "ball".to_owned(), shapes, path: Box::new(path) };
    // 5 px of blur at about 1.3 m/s, grain 4 %, JPEG 85.
    let camera = Camera { shutter: 1.0 / 26.0, grain: 0.04, ..Camera::default() };
    Shoot { camera, scenery: Vec::new(), movers: vec![mover], front: Vec::new(), frames: FRAMES }
}

fn main() {
    let folder = std::env::args().skip(1).find(|a| !a.starts_with("--")).map(PathBuf::from);
    let shoot = shoot();
    let roll = shoot.roll(1).expect("a roll");
    let start = Instant::now();
    let files: Vec<Vec<u8>> = (0..FRAMES).map(|n| shoot.jpeg(&roll, n).expect("a picture")).collect();
    let rendering = FRAMES as f64 / start.elapsed().as_secs_f64();

    let start = Instant::now();
    let pictures: Vec<Grey> = files.iter().map(|f| Grey::read(f).expect("a picture")).collect();
    let decoding = FRAMES as f64 / start.elapsed().as_secs_f64();

    let truth = |n: usize| shoot.truth(n)[0].1;
    let start = Instant::now();
    let mut follower = Follower::start(&pictures[0], truth(0), SIDE, 0.0).expect("a start");
    let mut squares = 0.0;
    for (n, picture) in pictures.iter().enumerate().skip(1) {
        let Found::Placed { at, .. } = follower.step(picture, shoot.camera.time(n)) else { panic!("lost at {n}") };
        let [x, y] = truth(n);
        squares += (at[0] - x).powi(2) + (at[1] - y).powi(2);
    }
    let following = (FRAMES - 1) as f64 / start.elapsed().as_secs_f64();

    // The same work as a bare template match: one template, one search region, in every frame.
    let corner = (truth(0)[0] as usize - SIDE / 2, truth(0)[1] as usize - SIDE / 2);
    let data =
        (0..SIDE * SIDE).map(|i| pictures[0].data[(corner.1 + i / SIDE) * pictures[0].width + corner.0 + i % SIDE]);
    let template = Grey { width: SIDE, height: SIDE, data: data.collect() };
    let start = Instant::now();
    let mut scores = Vec::new();
    for picture in &pictures {
        scores.push(match_template(picture, &template, (200, 100), (PLACES, PLACES)).expect("a match"));
    }
    let matching = start.elapsed().as_secs_f64() / FRAMES as f64;

    if let Some(folder) = &folder {
        std::fs::create_dir_all(folder).expect("a folder");
        for (n, file) in files.iter().enumerate() {
            std::fs::write(folder.join(format!("{n:04}.jpg")), file).expect("a file");
        }
    }
    let rms = (squares / (FRAMES - 1) as f64).sqrt();
    let ((x, y), score) = scores[10];
    writeln!(
        std::io::stdout(),
        r#"{{"rendered_a_second": {rendering:.0}, "decoded_a_second": {decoding:.0}, "followed_a_second": {following:.0}, "rms_px": {rms:.4}, "match_ms": {:.4}, "corner": [{}, {}], "side": {SIDE}, "places": {PLACES}, "match_10": [{x}, {y}, {score:.6}]}}"#,
        1e3 * matching, corner.0, corner.1
    )
    .expect("standard output");
}
