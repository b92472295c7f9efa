//! Simulated apparatus, a folder each. Every rig keeps one contract, [`Rig`]; [`CATALOGUE`] lists them.
//!
//! In the order of use: the [`Card`] says what can be set and read, [`Card::check`] reads what a person typed,
//! [`Rig::run`] makes the motion, [`Rig::scene`] says how to draw it. Motions in which forces do not change are put together
//! from `legs`, exactly; all others are integrated by `flow`.

mod basin;
mod buffers;
mod cabins;
mod contract;
mod discs;
mod hills;
mod millrace;
mod moon;
mod orrery;
mod pendulum;
mod scales;
mod shaft;
mod shuttle;
mod slope;
mod spring;
mod thrower;
mod torsion;
mod trolley;
mod whirl;
mod wire;

pub(crate) use contract::merged;
pub use contract::{
    ArrowKind, ArrowSpec, Bounds, Card, Channel, ChannelSpec, Clock, Coordinate, Ending, Fineness, Follows, Handle,
    Happening, MeterSpec, Node, NodePart, PLACE, Paint, PathError, PathLimits, Place, Pull, Rider, Rig, RigError, Role,
    Run, RunOutcome, Sampling, Scene, SceneShape, SecondBody, SettingError, SettingKind, SettingSpec, SettingValue,
    Settings, Shows, Sway, worlds,
};
pub use shuttle::{HandMotion, LONGEST_PULL, PullError};

/// All rigs, in the order of the catalogue.
pub static CATALOGUE: [&dyn Rig; 19] = [
    &shuttle::Shuttle,
    &trolley::Trolley,
    &slope::Slope,
    &shaft::Shaft,
    &thrower::Thrower,
    &spring::SpringStand,
    &whirl::WhirlingTable,
    &buffers::BufferRail,
    &pendulum::Pendulum,
    &torsion::Torsion,
    &cabins::Cabins,
    &hills::Hills,
    &orrery::Orrery,
    &discs::Discs,
    &wire::Wire,
    &moon::Moon,
    &basin::Basin,
    &millrace::MillRace,
    &scales::Scales,
];

/// The rig of that name.
pub fn rig(name: &str) -> Option<&'static dyn Rig> {
    CATALOGUE.iter().copied().find(|r| r.card().name == name)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn typed_settings_are_checked_and_kept_to_the_rigs_resolution() {
        let card = rig("pendulum").unwrap().card();
        let check = |name, typed| card.check(name, typed).map(|v| v.pretty());
        assert_eq!(check("length", "0,8"), Ok("0.800\u{A0}m".into()));
        assert_eq!(check("length", "80 cm"), Ok("0.800\u{A0}m".into()));
        assert_eq!(check("angle", "10°"), Ok("10.0°".into()));
        assert_eq!(
            check("angle", "0.5 rad"),
            Err(SettingError::TooFine { label: "release angle", step: "0.1°".into() })
        );
        assert_eq!(check("drag", "on"), Ok("on".into()));
        let (range, value) = ("0.200\u{A0}m to 2.000\u{A0}m".to_owned(), "2.5\u{A0}m".to_owned());
        assert_eq!(check("length", "2.5 m"), Err(SettingError::Outside { label: "length", range, value }));
        assert!(matches!(check("length", "3 s"), Err(SettingError::OtherUnit { .. })));
        assert!(check("length", "NaN").is_err());
        let unknown = check("colour", "3").unwrap_err();
        assert!(matches!(unknown, SettingError::Unknown { known, .. } if known.starts_with(&["length", "angle"])));
        let slope = rig("slope").unwrap().card();
        assert_eq!(slope.check("body", "ring").map(|v| v.pretty()), Ok("ring".into()));
        let none = slope.check("body", "anvil").unwrap_err();
        assert!(matches!(none, SettingError::NoOption { known, .. } if known.contains(&"cylinder")));
        let shuttle = rig("shuttle").unwrap().card();
        assert_eq!(shuttle.check("duration 1", ""), Ok(SettingValue::Blank("until stopped".into())));
        assert!(shuttle.check("position", "").is_err());
    }

    #[test]
    fn a_clock_writes_times_to_its_frames_or_a_tenth_of_them() {
        for (every, digit) in
            [(0.01, 0.01), (1e-4, 1e-4), (86_400.0, 8_640.0), (1.0 / 60.0, 1.0 / 600.0), (0.02, 0.01), (0.5, 0.1)]
        {
            let clock = Clock { every, lasts: 1e3 * every, frame: every, unit: "s" };
            assert!((clock.written().1 / digit - 1.0).abs() < 1e-12);
            assert_eq!(clock.sampling().frames().unwrap(), 1001);
        }
        let shuttle = rig("shuttle").unwrap().card();
        let names: Vec<&str> = shuttle.durations().map(|s| s.name).collect();
        assert_eq!(names.len(), 6);
        assert!(names.iter().all(|n| n.starts_with("duration")));
        // Which setting decides about gravity.
        let (slope, mut settings) = (rig("slope").unwrap(), Settings::default());
        settings.set("gravity", 5.0);
        for (world, from, gravity) in [("Moon", "world", 1.62), ("unknown", "gravity", 5.0)] {
            settings.choose("world", world);
            assert_eq!((slope.gravity_from(&settings), slope.gravity(&settings)), (Some(from), Some(gravity)));
        }
        assert_eq!(rig("whirl").unwrap().gravity(&settings), None);
    }

    /// A name that no card has would give zero, whatever is set.
    #[test]
    fn rigs_ask_for_settings_they_have() {
        for rig in CATALOGUE {
            let card = rig.card();
            let choices = card.settings.iter().filter_map(|s| match &s.kind {
                SettingKind::Choice { options } => Some(options.iter().map(|(option, _)| (s.name, *option))),
                SettingKind::Quantity { .. } | SettingKind::Switch { .. } | SettingKind::Path { .. } => None,
            });
            // Each option of each choice goes ways of its own.
            for (name, option) in choices.flatten().chain([("", "")]) {
                let mut settings = card.defaults();
                if !name.is_empty() {
                    settings.choose(name, option);
                }
                contract::asked::take();
                let run = rig.run(&settings, 1, Sampling { every: 0.05, duration: 1.0 }).unwrap();
                let _ =
                    (rig.scene(&settings, &run), rig.truths(&settings), rig.gravity(&settings), rig.clock(&settings));
                for asked in contract::asked::take() {
                    assert!(card.setting(&asked).is_some(), "{} has no setting {asked}", card.name);
                }
            }
        }
    }

    /// Every rig with its card: names once, units that read, defaults inside their ranges, meters and arrows that point somewhere.
    #[test]
    fn every_card_is_whole_and_every_scene_draws_what_its_run_records() {
        for rig in CATALOGUE {
            let card = rig.card();
            let settings = card.defaults();
            let run = rig.run(&settings, 1, rig.clock(&settings).sampling()).unwrap();
            assert!(run.frames() > 10, "{}", card.name);
            assert!(!run.outcome.failed, "{}: {:?}", card.name, run.outcome);
            let mut names: Vec<&str> = card.settings.iter().map(|s| s.name).collect();
            names.sort_unstable();
            assert!(names.windows(2).all(|w| w[0] != w[1]), "{} has a setting twice", card.name);
            for s in &card.settings {
                let shown = s.default_value().pretty();
                assert!(s.check(&shown.replace('\u{A0}', " ")).is_ok(), "{}: {} starts at {shown}", card.name, s.name);
            }
            for pull in rig.scene(&settings, &run).handles.iter().flat_map(|h| &h.pulls) {
                assert!(card.setting(pull.setting).is_some(), "{}: a handle moves {}", card.name, pull.setting);
            }
            for name in rig.scene(&settings, &run).channels() {
                assert!(run.channel(name).is_some(), "{} draws {name}", card.name);
            }
            for m in &card.meters {
                assert!(m.digit(1.0) > 0.0, "{}: {}", card.name, m.name);
                if let Shows::Now(channel) = m.shows {
                    let recorded = run.channels.iter().find(|c| c.spec.name == channel);
                    assert!(recorded.is_some_and(|c| c.spec.unit.same_dimension(&m.unit)), "{}: {channel}", card.name);
                }
                if let (Some(exact), Some(shown)) = (run.found(m.name), m.read(&run, 0, 5)) {
                    let off = (shown - exact / m.unit.size()).abs();
                    assert!(
                        off <= m.digit(shown) + 6.0 * m.scatter(shown),
                        "{}: {} is off by {off}",
                        card.name,
                        m.name
                    );
                }
            }
            for a in &card.arrows {
                for name in a.along.iter().chain(&a.foot).filter(|n| !n.is_empty()) {
                    assert!(run.channel(name).is_some(), "{}: {name}", card.name);
                }
            }
            for c in &run.channels {
                assert!(c.spec.resolution > 0.0, "{}: {}", card.name, c.spec.name);
                // What the scene is bound to is a length, or stands as it is.
                let bound = rig.scene(&settings, &run).channels().contains(&c.spec.name);
                let long = c.spec.unit.same_dimension(&card.length);
                assert!(!bound || long || (c.spec.unit.size() - 1.0).abs() < 1e-12, "{}: {}", card.name, c.spec.name);
                assert!(c.values.iter().all(|v| v.is_finite()), "{}: {}", card.name, c.spec.name);
            }
            assert!(card.tracks.iter().all(|t| card.channel(t).is_some()), "{}", card.name);
            let count = |role| card.channels.iter().filter(|c| c.role == role).count();
            // What is counted has no place.
            let places = [count(Role::PlaceX), count(Role::PlaceY)];
            assert!(count(Role::Time) == 1 && matches!(places, [1, 1] | [0, 0]), "{}", card.name);
        }
    }
}
