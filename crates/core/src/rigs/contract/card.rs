//! What can be read off a rig's label: its settings, the channels it records, its meters and arrows, its clock.

use super::{ChannelSpec, MeterSpec, PathLimits, Role, Sampling, SettingError, SettingKind, SettingSpec, SettingValue};
use crate::quantity::Unit;

/// What can be read off a rig's label.
#[derive(Clone, Debug)]
pub struct Card {
    /// Name in lab sheets and on the command line.
    pub name: &'static str,
    /// Raised by one whenever the same settings give another motion than before; runs remember it.
    pub revision: u32,
    /// Name for people.
    pub title: &'static str,
    /// What a real one has and this one has not, as the end of a sentence.
    pub leaves_out: &'static str,
    /// What can be set.
    pub settings: Vec<SettingSpec>,
    /// What a run records; the first is time.
    pub channels: Vec<ChannelSpec>,
    /// What can be read off its instruments.
    pub meters: Vec<MeterSpec>,
    /// What can be drawn as arrows.
    pub arrows: Vec<ArrowSpec>,
    /// How finely and how long its motion is recorded, unless its settings decide: see [`super::Rig::clock`].
    pub clock: Clock,
    /// The unit of length of its scene, and of its tape.
    pub length: Unit,
    /// Smallest division of its tape, in `length`.
    pub division: f64,
    /// Channels drawn against time beside the stage, if the sheet names none.
    pub tracks: &'static [&'static str],
    /// Whether its body can be pulled by hand.
    pub by_hand: bool,
    /// A second body whose moments can be asked too.
    pub second: Option<SecondBody>,
}

/// The clock of a rig.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Clock {
    /// Time between two frames, in s.
    pub every: f64,
    /// Longest time a run is recorded, in s.
    pub lasts: f64,
    /// How long a frame is shown when a run is played at speed 1, in s.
    pub frame: f64,
    /// Unit in which its times are written.
    pub unit: &'static str,
}

impl Clock {
    /// Frames of a hundredth of a second, for motions that a hand could time; `lasts` in s.
    pub(in crate::rigs) const fn by_hand(lasts: f64) -> Self {
        Self { every: 0.01, lasts, frame: 0.01, unit: "s" }
    }

    /// The time between two frames in the clock's unit, the last digit with which a time is written in it, and the unit.
    pub fn written(self) -> (f64, f64, Unit) {
        let unit = unit(self.unit);
        let every = self.every / unit.size();
        (every, last_digit(every), unit)
    }

    /// Decimals with which a time is written in the clock's unit.
    pub fn places(self) -> usize {
        let (_, digit, _) = self.written();
        (-digit.log10() - 1e-9).ceil().max(0.0) as usize
    }

    /// How a whole run is recorded.
    pub fn sampling(self) -> Sampling {
        Sampling { every: self.every, duration: self.lasts }
    }
}

/// The largest of 1, 2 and 5 times a power of ten that is not larger: an even step of a clock.
pub(in crate::rigs) fn even_step(at_most: f64) -> f64 {
    let decade = 10f64.powf(at_most.log10().floor());
    // Powers of ten below one are written as what they divide by, so that 0.2 is 0.2 to the last bit.
    let times = [5.0, 2.0].into_iter().find(|k| k * decade <= at_most * (1.0 + 1e-9)).unwrap_or(1.0);
    if decade < 1.0 { times / decade.recip().round() } else { times * decade.round() }
}

/// The last digit with which a time between two frames is written, in the unit of the frame time: that itself where it is a single digit, else
/// a tenth of it.
fn last_digit(every: f64) -> f64 {
    let decade = 10f64.powf((every * (1.0 + 1e-9)).log10().floor());
    let digit = every / decade;
    if (digit - digit.round()).abs() < 1e-9 { decade } else { every / 10.0 }
}

/// A second body on a rig.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct SecondBody {
    /// Names of the first and the second body for people.
    pub labels: [&'static str; 2],
    /// Channels of its place.
    pub place: [&'static str; 2],
    /// Channels of its velocity; an empty name is zero.
    pub velocity: [&'static str; 2],
    /// The choice with which it is there; always without one.
    pub with: Option<(&'static str, &'static str)>,
}

/// Something that can be drawn as an arrow on the stage.
#[derive(Clone, Debug)]
pub struct ArrowSpec {
    /// Name in forms.
    pub name: &'static str,
    /// Name for people.
    pub label: &'static str,
    /// Letter at the tip.
    pub letter: &'static str,
    /// What it stands for, which decides its head and its scale.
    pub kind: ArrowKind,
    /// Channels along x and y; an empty name is zero.
    pub along: [&'static str; 2],
    /// Channels of the place of its foot; an empty name is zero.
    pub foot: [&'static str; 2],
    /// Where the foot is beside that place, in m.
    pub beside: [f64; 2],
}

/// What an arrow stands for. Arrows of one dimension share a scale.
#[derive(Clone, Copy, Debug, PartialEq, Eq, serde::Serialize)]
#[serde(rename_all = "snake_case")]
pub enum ArrowKind {
    /// A velocity: an open head.
    Velocity,
    /// An acceleration: two heads.
    Acceleration,
    /// A single force: a filled head with a bar at its foot.
    Force,
    /// The net force: the same, longer bar.
    Net,
    /// A component of a velocity: thin and broken.
    VelocityComponent,
    /// A component of a force: thin and broken.
    ForceComponent,
}

impl ArrowKind {
    /// Whether it is a velocity or a component of one.
    pub fn is_velocity(self) -> bool {
        match self {
            Self::Velocity | Self::VelocityComponent => true,
            Self::Acceleration | Self::Force | Self::Net | Self::ForceComponent => false,
        }
    }

    /// The unit of its lengths.
    pub fn unit(self) -> &'static str {
        match self {
            Self::Velocity | Self::VelocityComponent => "m/s",
            Self::Acceleration => "m/s²",
            Self::Force | Self::Net | Self::ForceComponent => "N",
        }
    }
}

/// An arrow at the body, along two channels.
pub(in crate::rigs) fn arrow(
    name: &'static str,
    label: &'static str,
    letter: &'static str,
    kind: ArrowKind,
    along: [&'static str; 2],
) -> ArrowSpec {
    ArrowSpec { name, label, letter, kind, along, foot: ["x", "y"], beside: [0.0, 0.0] }
}

impl ArrowSpec {
    /// The same with its foot beside that place, in m.
    pub(in crate::rigs) fn beside(self, beside: [f64; 2]) -> Self {
        Self { beside, ..self }
    }

    /// The same with its foot where two other channels are.
    pub(in crate::rigs) fn footed(self, foot: [&'static str; 2]) -> Self {
        Self { foot, ..self }
    }
}

/// A unit from one of the constant texts of the rigs' files; the catalogue's test reads them all.
pub(in crate::rigs) fn unit(text: &str) -> Unit {
    Unit::parse(text).unwrap_or_default()
}

impl Card {
    /// The same label with quantities of any size and in any steps.
    #[must_use]
    pub(crate) fn widened(mut self) -> Self {
        for spec in &mut self.settings {
            if let SettingKind::Quantity { min, max, resolution, .. } = &mut spec.kind {
                (*min, *max) = (f64::MIN, f64::MAX);
                *resolution *= 1e-6;
            }
            if let SettingKind::Path { limits, .. } = &mut spec.kind {
                let any = [f64::MIN, f64::MAX];
                *limits = PathLimits { count: [1, usize::MAX], x: any, y: any, ring: any, step: 1e-6 * limits.step };
            }
        }
        self
    }

    /// The label of motion that is filmed: nothing to set.
    pub fn of_films() -> Self {
        Self {
            revision: 0,
            name: "film",
            title: "Film",
            leaves_out: "nothing: it is what was filmed.",
            settings: Vec::new(),
            channels: Vec::new(),
            meters: Vec::new(),
            arrows: Vec::new(),
            clock: Clock { every: 1.0, lasts: 0.0, frame: 1.0, unit: "s" },
            length: unit("m"),
            division: 0.001,
            tracks: &[],
            by_hand: false,
            second: None,
        }
    }

    /// The setting of that name.
    pub fn setting(&self, name: &str) -> Option<&SettingSpec> {
        self.settings.iter().find(|s| s.name == name)
    }

    /// The channel of that name.
    pub fn channel(&self, name: &str) -> Option<&ChannelSpec> {
        self.channels.iter().find(|c| c.name == name)
    }

    /// The channel of a role.
    pub fn channel_of(&self, role: Role) -> Option<&ChannelSpec> {
        self.channels.iter().find(|c| c.role == role)
    }

    /// The channels of the body's velocity along x and y, empty where it cannot move.
    pub fn velocity(&self) -> Option<[&'static str; 2]> {
        self.arrows.iter().find(|a| a.kind == ArrowKind::Velocity).map(|a| a.along)
    }

    /// The meter of that name.
    pub fn meter(&self, name: &str) -> Option<&MeterSpec> {
        self.meters.iter().find(|m| m.name == name)
    }

    /// Settings that say how long a stretch of the motion lasts, in the order of the stretches.
    pub fn durations(&self) -> impl Iterator<Item = &SettingSpec> {
        let second = unit("s");
        let is_time = move |s: &&SettingSpec| matches!(&s.kind, SettingKind::Quantity { unit, .. } if unit.same_dimension(&second));
        self.settings.iter().filter(|s| s.line.is_some()).filter(is_time)
    }

    /// The second body, if there is one with these settings.
    pub fn second_body(&self, settings: &super::Settings) -> Option<SecondBody> {
        self.second.filter(|s| s.with.is_none_or(|(choice, option)| settings.chosen(choice) == option))
    }

    /// Every setting at its value for the start.
    pub fn defaults(&self) -> super::Settings {
        let mut all = super::Settings::default();
        for s in &self.settings {
            all.put(s.name, &s.default_value());
        }
        all
    }

    /// The setting with this name.
    ///
    /// # Errors
    /// [`SettingError::Unknown`] with what there is.
    pub fn known_setting(&self, name: &str) -> Result<&SettingSpec, SettingError> {
        self.setting(name).ok_or_else(|| SettingError::Unknown {
            rig: self.name,
            name: name.to_owned(),
            known: self.settings.iter().map(|s| s.name).collect(),
        })
    }

    /// Reads and checks a typed value of a setting.
    ///
    /// # Errors
    /// [`SettingError`] with what was typed and what can be.
    pub fn check(&self, name: &str, typed: &str) -> Result<SettingValue, SettingError> {
        self.known_setting(name)?.check(typed)
    }
}
