//! Following an object on rendered films whose true positions are known.

use std::sync::LazyLock;

use proptest::prelude::*;
use zeitmass_film::camera::{Camera, Mover, Shoot, Silhouette};
use zeitmass_film::catalogue::{FILMS, FilmCard, film};
use zeitmass_film::follow::{FollowError, Follower, Found, Question, match_template};
use zeitmass_film::strobe::{Blend, add};
use zeitmass_film::{Grey, Rgb, jpeg};

fn pictures(shoot: &Shoot, seed: u64) -> Vec<Grey> {
    let roll = shoot.roll(seed).unwrap();
    (0..shoot.frames).map(|n| Grey::read(&shoot.jpeg(&roll, n).unwrap()).unwrap()).collect()
}

/// What came of following: placed marks by frame, and the first question.
struct Followed {
    errors: Vec<[f64; 2]>,
    asked: Option<(usize, Question)>,
}

impl Followed {
    fn rms(&self) -> f64 {
        (self.errors.iter().map(|[x, y]| x * x + y * y).sum::<f64>() / self.errors.len() as f64).sqrt()
    }
}

fn follow(shoot: &Shoot, pictures: &[Grey], mover: usize, from: usize, side: usize) -> Followed {
    let truth = |n: usize| shoot.truth(n)[mover].1;
    let time = |n: usize| shoot.camera.time(n);
    let mut follower = Follower::start(&pictures[from], truth(from), side, time(from)).unwrap();
    let mut followed = Followed { errors: Vec::new(), asked: None };
    for (n, picture) in pictures.iter().enumerate().skip(from + 1) {
        match follower.step(picture, time(n)) {
            Found::Placed { at, .. } => {
                let [x, y] = truth(n);
                followed.errors.push([at[0] - x, at[1] - y]);
            }
            Found::Asks { why, .. } => {
                followed.asked = Some((n, why));
                break;
            }
        }
    }
    followed
}

/// A spotted ball of 20 px before a plain ground, moving as told, in m (1 m = 100 px).
fn shoot(frames: usize, camera: Camera, paths: Vec<Box<dyn Fn(f64) -> [f64; 2] + Send + Sync>>) -> Shoot {
    let movers = paths.into_iter().enumerate().map(|(i, path)| Mover {
        name: format!("ball {i}"),
        shapes: vec![
            Silhouette::Disc { centre: [0.0, 0.0], radius: 0.12, colour: [50, 60, 70] },
            Silhouette::Disc { centre: [0.03, 0.02], radius: 0.05, colour: [230, 220, 200] },
        ],
        path: Box::new(move |t| (path(t), 0.0)),
    });
    Shoot { camera, scenery: Vec::new(), movers: movers.collect(), front: Vec::new(), frames }
}

/// Frame 20 of the yard film.
static YARD: LazyLock<Grey> = LazyLock::new(|| {
    let shoot = film("tower-yard").unwrap().shoot(1);
    let roll = shoot.roll(1).unwrap();
    Grey::read(&shoot.jpeg(&roll, 20).unwrap()).unwrap()
});

#[test]
fn blurred_and_grainy_films_are_followed_to_a_tenth_of_a_pixel() {
    // 5 px of blur: 3 m/s are 300 px/s, so the shutter is open for 1/60 s. Grain 4 %, JPEG 85.
    let camera = Camera { shutter: 1.0 / 60.0, grain: 0.04, quality: 85, ..Camera::default() };
    let path = |t: f64| [-2.6 + 3.0 * t, -0.8 + 1.6 * t - 0.55 * t * t];
    let shoot = shoot(100, camera, vec![Box::new(path)]);
    let followed = follow(&shoot, &pictures(&shoot, 7), 0, 0, 32);
    assert_eq!(followed.asked, None);
    assert_eq!(followed.errors.len(), 99);
    assert!(followed.rms() <= 0.10, "{} px", followed.rms());
}

#[test]
fn no_object_of_a_demo_film_is_lost_before_it_leaves_the_picture() {
    // The carts differ by their pace alone: the slowest and the fastest stand for all.
    let cards: Vec<&FilmCard> =
        FILMS.iter().filter(|card| !["cart-40", "cart-60", "cart-80"].contains(&card.name)).collect();
    // It is the longest of these tests by far: two share it.
    let (some, others) = cards.split_at(cards.len() / 2);
    std::thread::scope(|scope| {
        scope.spawn(|| some.iter().for_each(|card| follow_all(card)));
        others.iter().for_each(|card| follow_all(card));
    });
}

fn follow_all(card: &FilmCard) {
    let shoot = card.shoot(1);
    let pictures = pictures(&shoot, 1);
    for mover in 0..shoot.movers.len() {
        let side = if ["buffer", "tower-yard", "sunshades"].contains(&card.name) { 28 } else { 24 };
        let margin = side as f64 / 2.0 + 3.0;
        let (w, h) = (shoot.camera.width as f64, shoot.camera.height as f64);
        let inside = |n: usize| {
            let [x, y] = shoot.truth(n)[mover].1;
            x > margin && y > margin && x < w - margin && y < h - margin
        };
        let from = (0..shoot.frames).find(|n| inside(*n)).unwrap();
        let until = (from..shoot.frames).find(|n| !inside(*n)).unwrap_or(shoot.frames);
        assert!(until - from > 30, "{} is seen for {} frames", card.name, until - from);
        let followed = follow(&shoot, &pictures[..until], mover, from, side);
        let name = format!("{}, {}", card.name, shoot.movers[mover].name);
        assert_eq!(followed.asked, None, "{name}");
        assert!(followed.rms() < 0.35, "{name}: {} px", followed.rms());
    }
}

#[test]
fn the_follower_asks_when_two_alike_cross_and_never_takes_the_wrong_one() {
    for (height, speed) in [(0.0, 1.5), (0.06, 1.5), (0.12, 2.5), (0.0, 3.5)] {
        let one = move |t: f64| [-1.5 + speed * t, 0.0];
        let other = move |t: f64| [1.5 - speed * t, height];
        let frames = (3.0 / speed * 60.0) as usize;
        let shoot = shoot(frames, Camera::default(), vec![Box::new(one), Box::new(other)]);
        for mover in 0..2 {
            let followed = follow(&shoot, &pictures(&shoot, 3), mover, 0, 30);
            let worst = followed.errors.iter().map(|[x, y]| x.hypot(*y)).fold(0.0, f64::max);
            assert!(worst < 2.0, "{height} {speed}: {worst} px off without asking");
            let (frame, _) = followed.asked.expect("it asks");
            assert!(frame > frames / 6, "{height} {speed}: it asks at frame {frame}, long before they meet");
        }
    }
}

#[test]
fn the_follower_asks_when_the_object_leaves_or_is_hidden() {
    let leaving = shoot(90, Camera::default(), vec![Box::new(|t| [2.0 + 1.5 * t, 0.3])]);
    let followed = follow(&leaving, &pictures(&leaving, 1), 0, 0, 30);
    assert_eq!(followed.asked.map(|(_, why)| why), Some(Question::Leaves));
    assert!(followed.rms() < 0.1, "{}", followed.rms());

    let mut hidden = shoot(90, Camera::default(), vec![Box::new(|t| [-2.0 + 1.5 * t, 0.0])]);
    // A wall in front of it, which the camera paints last.
    let wall = vec![Silhouette::rectangle(-0.4, -1.0, 0.8, 2.0, [90, 80, 70])];
    hidden.movers.push(Mover { name: "wall".into(), shapes: wall, path: Box::new(|_| ([0.0, 0.0], 0.0)) });
    let followed = follow(&hidden, &pictures(&hidden, 1), 0, 0, 30);
    let (frame, why) = followed.asked.unwrap();
    assert_eq!(why, Question::PoorMatch);
    let worst = followed.errors.iter().map(|[x, y]| x.hypot(*y)).fold(0.0, f64::max);
    assert!((50..90).contains(&frame) && worst < 8.0, "frame {frame}, {worst} px");
}

#[test]
fn following_goes_on_after_a_mark_by_hand() {
    let shoot = shoot(80, Camera::default(), vec![Box::new(|t| [-2.0 + 2.0 * t, 0.4 - t * t])]);
    let pictures = pictures(&shoot, 5);
    let mut follower = Follower::start(&pictures[0], shoot.truth(0)[0].1, 30, 0.0).unwrap();
    // Frames 1 to 9 are marked by hand: the follower is told the motion and goes on from there.
    follower.correct(&pictures[9], shoot.truth(9)[0].1, shoot.camera.time(9)).unwrap();
    let earlier: Vec<_> = (6..9).map(|n| (shoot.camera.time(n), shoot.truth(n)[0].1)).collect();
    follower.recall(&earlier);
    let found = follower.step(&pictures[10], shoot.camera.time(10));
    let Found::Placed { at, score } = found else { panic!("{found:?}") };
    let [x, y] = shoot.truth(10)[0].1;
    assert!((at[0] - x).hypot(at[1] - y) < 0.15 && score > 0.9, "{at:?} {score}");
}

#[test]
fn what_cannot_be_followed_is_said() {
    let plain = Grey { width: 100, height: 80, data: vec![120; 8000] };
    assert_eq!(Follower::start(&plain, [50.0, 40.0], 20, 0.0).unwrap_err(), FollowError::Plain);
    assert_eq!(Follower::start(&plain, [5.0, 40.0], 20, 0.0).unwrap_err(), FollowError::Outside);
    assert_eq!(Follower::start(&plain, [f64::NAN, 40.0], 20, 0.0).unwrap_err(), FollowError::Outside);
    let message = Follower::start(&plain, [50.0, 40.0], 500, 0.0).unwrap_err().to_string();
    assert_eq!(message, "The box can be 8 to 128 pixels wide, not 500.");
}

#[test]
fn a_film_is_the_same_for_a_seed_and_another_for_another() {
    let shoot = film("buffer").unwrap().shoot(4);
    let frame = |seed| shoot.jpeg(&shoot.roll(seed).unwrap(), 30).unwrap();
    assert_eq!(frame(4), frame(4));
    assert_ne!(frame(4), frame(5));
}

/// The pendulum of the films keeps its energy, starts at its greatest angle and comes back after the period of its series (R. A. Nelson and M. G. Olsson,
/// Am. J. Phys. 54 (1986) 112, equation 14; from memory).
#[test]
fn the_filmed_pendulum_moves_as_pendulums_do() {
    use zeitmass_film::catalogue::{GRAVITY, PENDULUM, swung};
    let (length, most) = PENDULUM;
    let energy = |t: f64| {
        let rate = (swung(length, most, t + 1e-5) - swung(length, most, t - 1e-5)) / 2e-5;
        0.5 * length * length * rate * rate - GRAVITY * length * swung(length, most, t).cos()
    };
    assert!((swung(length, most, 0.0) - most).abs() < 1e-9);
    for k in 0..80 {
        let t = 0.05 * f64::from(k);
        assert!((energy(t) / energy(0.0) - 1.0).abs() < 1e-6, "{t}: {}", energy(t));
    }
    let series = 1.0 + most.powi(2) / 16.0 + 11.0 * most.powi(4) / 3072.0 + 173.0 * most.powi(6) / 737_280.0;
    let period = std::f64::consts::TAU * (length / GRAVITY).sqrt() * series;
    assert!((swung(length, most, period / 2.0) + most).abs() < 1e-6);
    assert!(swung(length, most, period / 4.0).abs() < 1e-4);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    /// The template's score is the correlation coefficient, whatever the brightness and contrast of the picture.
    #[test]
    fn scores_do_not_depend_on_gain_and_offset(x in 0usize..60, y in 0usize..40, gain in 0.6f64..0.95, offset in 0u8..20) {
        let side = 21;
        let cut = |of: &Grey, x0: usize, y0: usize| Grey {
            width: side,
            height: side,
            data: (0..side * side).map(|i| of.data[(y0 + i / side) * of.width + x0 + i % side]).collect(),
        };
        let template = cut(&YARD, 200 + x, 100 + y);
        prop_assume!(template.data.iter().max().unwrap() - template.data.iter().min().unwrap() > 80);
        let dimmed = Grey {
            data: YARD.data.iter().map(|v| (f64::from(*v) * gain) as u8 + offset).collect(),
            ..YARD.clone()
        };
        let ((cx, cy), score) = match_template(&dimmed, &template, (190 + x, 90 + y), (20, 20)).unwrap();
        prop_assert_eq!((cx, cy), (200 + x, 100 + y));
        prop_assert!(score > 0.99 && score <= 1.0 + 1e-12, "{}", score);
        // The definition, term by term.
        let seen = cut(&dimmed, cx, cy);
        let mean = |g: &Grey| g.data.iter().map(|v| f64::from(*v)).sum::<f64>() / g.data.len() as f64;
        let (mt, ms) = (mean(&template), mean(&seen));
        let (mut ts, mut tt, mut ss) = (0.0, 0.0, 0.0);
        for (t, s) in template.data.iter().zip(&seen.data) {
            let (t, s) = (f64::from(*t) - mt, f64::from(*s) - ms);
            ts += t * s;
            tt += t * t;
            ss += s * s;
        }
        prop_assert!((score - ts / (tt * ss).sqrt()).abs() < 1e-9);
    }

    /// Damaged and random bytes are refused, never a panic.
    #[test]
    fn no_bytes_make_the_reader_panic(cut in 0usize..4000, flip in 0usize..4000, bytes in prop::collection::vec(any::<u8>(), 0..64)) {
        let picture = Rgb { width: 40, height: 30, data: vec![90; 3600] };
        let mut file = jpeg(&picture, 85).unwrap();
        let at = flip % file.len();
        file[at] ^= 0x5A;
        file.truncate(cut % file.len());
        let _ = Grey::read(&file);
        prop_assert!(Grey::read(&bytes).is_err());
    }
}

/// Templates found and strobe pictures made by OpenCV (version in the fixture, made by tools/reference/films.py).
#[test]
fn matches_and_strobe_pictures_agree_with_opencv() {
    let fixture: serde_json::Value = serde_json::from_str(include_str!("fixtures/opencv.json")).unwrap();
    let shoot = film("tower-yard").unwrap().shoot(1);
    let roll = shoot.roll(1).unwrap();
    let file = |n: usize| shoot.jpeg(&roll, n).unwrap();
    let number = |v: &serde_json::Value| v.as_f64().unwrap();
    let pair = |v: &serde_json::Value| (number(&v[0]) as usize, number(&v[1]) as usize);
    let (side, places) = (number(&fixture["side"]) as usize, number(&fixture["places"]) as usize);
    for m in fixture["matches"].as_array().unwrap() {
        let frame = number(&m["frame"]) as usize;
        let (now, next) = (Grey::read(&file(frame)).unwrap(), Grey::read(&file(frame + 1)).unwrap());
        let (x, y) = pair(&m["template"]);
        let data = (0..side * side).map(|i| now.data[(y + i / side) * now.width + x + i % side]).collect();
        let template = Grey { width: side, height: side, data };
        let (best, score) = match_template(&next, &template, pair(&m["region"]), (places, places)).unwrap();
        assert_eq!(best, pair(&m["best"]), "frame {frame}");
        // The two JPEG decoders differ by a level of brightness here and there.
        assert!((score - number(&m["score"])).abs() < 5e-3, "frame {frame}: {score} {}", m["score"]);
    }
    for (name, blend) in [("darken", Blend::Darken), ("lighten", Blend::Lighten)] {
        let every = number(&fixture["strobe_every"]) as usize;
        let mut all = (0..shoot.frames).step_by(every).map(|n| Rgb::read(&file(n)).unwrap());
        let mut sum = all.next().unwrap();
        all.for_each(|next| add(&mut sum, &next, blend).unwrap());
        let wanted = &fixture["strobes"][name];
        for channel in 0..3 {
            let mean = sum.data.iter().skip(channel).step_by(3).map(|v| f64::from(*v)).sum::<f64>();
            let mean = mean / (sum.width * sum.height) as f64;
            assert!((mean - number(&wanted["mean"][channel])).abs() < 1.0, "{name} {channel}: {mean}");
            for p in wanted["pixels"].as_array().unwrap() {
                let (x, y) = pair(&p[0]);
                let level = f64::from(sum.data[3 * (y * sum.width + x) + channel]);
                assert!((level - number(&p[1][channel])).abs() <= 8.0, "{name} at {x},{y}: {level}");
            }
        }
    }
}
