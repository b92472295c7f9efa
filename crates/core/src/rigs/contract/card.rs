//! What can be read off a rig's label: its settings, the channels it records, its meters and arrows.

use super::chance::Chance;
use super::path::{Node, PathLimits, written};
use super::{ChannelSpec, Role, Run, Sampling};
use crate::quantity::format::{plain, with_unit};
use crate::quantity::{Decimal, Reading, Unit, parse_quantity};

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

/// One setting of a rig.
#[derive(Clone, Debug)]
pub struct SettingSpec {
    /// Name in lab sheets and on the command line.
    pub name: &'static str,
    /// Name for people.
    pub label: &'static str,
    /// Symbol in formulas.
    pub symbol: &'static str,
    /// What kind of value it takes.
    pub kind: SettingKind,
    /// Settings with the same number are shown in one line: a stretch of the shuttle's motion.
    pub line: Option<u8>,
    /// The choice and its option with which it counts; always without.
    pub with: Option<(&'static str, &'static str)>,
}

/// Kinds of settings.
#[derive(Clone, Debug)]
pub enum SettingKind {
    /// A number with unit.
    Quantity {
        /// Unit in which range and resolution are given and values shown.
        unit: Unit,
        /// Smallest value in `unit`.
        min: f64,
        /// Largest value in `unit`.
        max: f64,
        /// Smallest step in `unit`.
        resolution: f64,
        /// Value at the start, in `unit`; none for one that starts blank.
        default: Option<f64>,
        /// What it means when it is left blank; none if it cannot be.
        blank: Option<&'static str>,
    },
    /// On or off.
    Switch {
        /// State at the start.
        default: bool,
    },
    /// One of several; the first is chosen at the start.
    Choice {
        /// Name and name for people.
        options: &'static [(&'static str, &'static str)],
    },
    /// A list of nodes.
    Path {
        /// Unit of the nodes.
        unit: Unit,
        /// What nodes it takes.
        limits: PathLimits,
        /// Nodes at the start.
        default: Vec<Node>,
    },
}

/// Something that can be read off an instrument.
#[derive(Clone, Debug)]
pub struct MeterSpec {
    /// Name in forms.
    pub name: &'static str,
    /// Name for people.
    pub label: &'static str,
    /// Symbol in the formulas of keys.
    pub symbol: &'static str,
    /// Unit it shows.
    pub unit: Unit,
    /// How finely it reads.
    pub fineness: Fineness,
    /// Where its value is from.
    pub shows: Shows,
    /// Settings it tells straight away: a sheet that hides one leaves the meter off the bench unless it names it.
    pub tells: &'static [&'static str],
}

/// How finely a meter reads.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Fineness {
    /// Always to the same digit.
    Digit {
        /// Its last digit, in its unit.
        digit: f64,
        /// Standard deviation of its chance errors, in its unit; zero where a real one has none worth the name.
        scatter: f64,
    },
    /// To so many significant figures, whatever the power of ten.
    Figures {
        /// How many.
        figures: u8,
        /// Standard deviation of its chance errors as a share of the value.
        scatter: f64,
    },
}

/// The last digit of a meter with significant figures that shows nothing at all, in its unit.
const NOTHING: f64 = 1e-15;

/// Where a meter's value is from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Shows {
    /// Of a run as a whole, among [`Run::found`].
    Run,
    /// The value of a channel at the moment on the stage.
    Now(&'static str),
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

/// A quantity, with smallest and largest value, step and value at the start in the unit of that text.
pub(in crate::rigs) fn quantity(
    name: &'static str,
    label: &'static str,
    symbol: &'static str,
    unit: &str,
    [min, max, resolution, default]: [f64; 4],
) -> SettingSpec {
    let kind =
        SettingKind::Quantity { unit: self::unit(unit), min, max, resolution, default: Some(default), blank: None };
    SettingSpec { name, label, symbol, kind, line: None, with: None }
}

/// A quantity that starts blank, and what blank means.
pub(in crate::rigs) fn optional(
    name: &'static str,
    label: &'static str,
    symbol: &'static str,
    unit: &str,
    [min, max, resolution]: [f64; 3],
    blank: &'static str,
) -> SettingSpec {
    let unit = self::unit(unit);
    let kind = SettingKind::Quantity { unit, min, max, resolution, default: None, blank: Some(blank) };
    SettingSpec { name, label, symbol, kind, line: None, with: None }
}

/// A list of nodes in the unit of that text.
pub(in crate::rigs) fn path(
    name: &'static str,
    label: &'static str,
    unit: &str,
    limits: PathLimits,
    default: Vec<Node>,
) -> SettingSpec {
    let kind = SettingKind::Path { unit: self::unit(unit), limits, default };
    SettingSpec { name, label, symbol: "", kind, line: None, with: None }
}

/// One of several.
pub(in crate::rigs) fn choice(
    name: &'static str,
    label: &'static str,
    options: &'static [(&'static str, &'static str)],
) -> SettingSpec {
    SettingSpec { name, label, symbol: "", kind: SettingKind::Choice { options }, line: None, with: None }
}

/// A meter of the run as a whole.
pub(in crate::rigs) fn found(
    name: &'static str,
    label: &'static str,
    symbol: &'static str,
    unit: &str,
    [resolution, scatter]: [f64; 2],
) -> MeterSpec {
    let fineness = Fineness::Digit { digit: resolution, scatter };
    MeterSpec { name, label, symbol, unit: self::unit(unit), fineness, shows: Shows::Run, tells: &[] }
}

/// A meter of a channel at the moment on the stage.
pub(in crate::rigs) fn now(
    name: &'static str,
    label: &'static str,
    symbol: &'static str,
    unit: &str,
    precision: [f64; 2],
    channel: &'static str,
) -> MeterSpec {
    MeterSpec { shows: Shows::Now(channel), ..found(name, label, symbol, unit, precision) }
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

    /// Reads and checks a typed value of a setting.
    ///
    /// # Errors
    /// A sentence that names the setting, what is wrong and the range.
    pub fn check(&self, name: &str, typed: &str) -> Result<SettingValue, String> {
        let spec = self.setting(name).ok_or_else(|| {
            let names: Vec<&str> = self.settings.iter().map(|s| s.name).collect();
            format!("The {} has no setting “{name}”. It has: {}.", self.name, names.join(", "))
        })?;
        spec.check(typed)
    }
}

impl MeterSpec {
    /// The same telling these settings straight away.
    pub(in crate::rigs) fn telling(self, tells: &'static [&'static str]) -> Self {
        Self { tells, ..self }
    }

    /// What the meter shows of a run at a frame: the value with its chance error, to the last digit, in its unit. The same run
    /// and frame show the same. `None` when there is nothing to show.
    pub fn read(&self, run: &Run, frame: usize, seed: u64) -> Option<f64> {
        let (exact, at) = match self.shows {
            Shows::Run => (run.found(self.name)?, 0),
            // The motion as it was seen may have ended a frame later.
            Shows::Now(channel) => {
                let values = run.channel(channel)?;
                (*values.get(frame).or(values.last())?, frame)
            }
        };
        let exact = exact / self.unit.size();
        let scatter = self.scatter(exact);
        let error = if scatter > 0.0 { scatter * Chance::of(seed, self.name, at as u64).normal() } else { 0.0 };
        let digit = self.digit(exact + error);
        Some(((exact + error) / digit).round() * digit)
    }

    /// The same to so many significant figures, with chance errors of this share of the value.
    pub(in crate::rigs) fn to_figures(self, figures: u8, scatter: f64) -> Self {
        Self { fineness: Fineness::Figures { figures, scatter }, ..self }
    }

    /// Its last digit where it shows that value; both in its unit.
    pub fn digit(&self, value: f64) -> f64 {
        match self.fineness {
            Fineness::Digit { digit, .. } => digit,
            Fineness::Figures { .. } if value == 0.0 || !value.is_finite() => NOTHING,
            Fineness::Figures { figures, .. } => {
                10f64.powi(value.abs().log10().floor() as i32 + 1 - i32::from(figures)).max(NOTHING * 1e-9)
            }
        }
    }

    /// Standard deviation of its chance errors at that value; both in its unit.
    pub fn scatter(&self, value: f64) -> f64 {
        match self.fineness {
            Fineness::Digit { scatter, .. } => scatter,
            Fineness::Figures { scatter, .. } => scatter * value.abs(),
        }
    }

    /// Width of an even distribution with the same standard uncertainty as the meter at that value, both in its unit: its last digit and its
    /// scatter.
    pub fn width(&self, value: f64) -> f64 {
        self.digit(value).hypot(self.scatter(value) * 12f64.sqrt())
    }

    /// What it shows as a number with all its digits, in its unit.
    pub fn shown(&self, value: f64) -> Decimal {
        Decimal::rounded(value, self.digit(value))
    }

    /// How exactly it reads, for people: `last digit 0.01 N, scatter 0.02 N`.
    pub fn precision(&self) -> String {
        match self.fineness {
            Fineness::Digit { digit, scatter } => {
                let last = with_unit(&digit.to_string(), &self.unit);
                if scatter > 0.0 {
                    format!("last digit {last}, scatter {}", with_unit(&scatter.to_string(), &self.unit))
                } else {
                    format!("last digit {last}")
                }
            }
            Fineness::Figures { figures, scatter } => {
                let scatter =
                    if scatter > 0.0 { format!(", scatter {} %", plain(100.0 * scatter)) } else { String::new() };
                format!("{figures} significant figures{scatter}")
            }
        }
    }
}

/// A setting's value as it is shown: digits and unit.
#[derive(Clone, Debug, PartialEq, serde::Serialize, serde::Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum SettingValue {
    /// A number in the setting's unit.
    Quantity(Decimal, Unit),
    /// On or off.
    Switch(bool),
    /// Name of the option chosen.
    Choice(String),
    /// Left blank, with what that means.
    Blank(String),
    /// Nodes, in the setting's unit.
    Path(Vec<Node>),
}

impl SettingValue {
    /// The value of a number in coherent SI units.
    pub fn si(&self) -> Option<f64> {
        match self {
            Self::Quantity(number, unit) => Some(number.value() * unit.size()),
            Self::Switch(on) => Some(f64::from(u8::from(*on))),
            Self::Choice(_) | Self::Blank(_) | Self::Path(_) => None,
        }
    }

    /// The value for people: `0.800 m`, `on`. Of a choice the option's own name; see [`SettingSpec::pretty`].
    pub fn pretty(&self) -> String {
        match self {
            Self::Quantity(number, unit) => with_unit(&number.pretty(), unit),
            Self::Switch(on) => if *on { "on" } else { "off" }.to_owned(),
            Self::Choice(name) => name.clone(),
            Self::Blank(_) => String::new(),
            Self::Path(nodes) => written(nodes),
        }
    }
}

impl SettingSpec {
    /// The same as one that counts only with an option of a choice.
    pub(in crate::rigs) fn with(self, choice: &'static str, option: &'static str) -> Self {
        Self { with: Some((choice, option)), ..self }
    }

    /// The value at the start.
    pub fn default_value(&self) -> SettingValue {
        match &self.kind {
            SettingKind::Quantity { default: None, blank, .. } => {
                SettingValue::Blank(blank.unwrap_or_default().to_owned())
            }
            SettingKind::Quantity { unit, resolution, default: Some(default), .. } => {
                SettingValue::Quantity(Decimal::rounded(*default, *resolution), unit.clone())
            }
            SettingKind::Switch { default } => SettingValue::Switch(*default),
            SettingKind::Choice { options } => {
                SettingValue::Choice(options.first().map_or("", |(name, _)| name).to_owned())
            }
            SettingKind::Path { default, .. } => SettingValue::Path(default.clone()),
        }
    }

    /// A value for people, an option by its name for people, a blank by what it means.
    pub fn pretty(&self, value: &SettingValue) -> String {
        match (value, &self.kind) {
            (SettingValue::Choice(name), SettingKind::Choice { options }) => {
                options.iter().find(|(n, _)| n == name).map_or_else(|| name.clone(), |(_, label)| (*label).to_owned())
            }
            (SettingValue::Blank(meaning), _) => meaning.clone(),
            (SettingValue::Path(nodes), _) => {
                let rings = match nodes.iter().filter(|n| n.ring.is_some()).count() {
                    0 => String::new(),
                    1 => ", a loop".to_owned(),
                    k => format!(", {k} loops"),
                };
                format!("{}{rings}", nodes.len())
            }
            _ => value.pretty(),
        }
    }

    /// The allowed range in words: `0.200 m to 2.000 m`.
    pub fn range(&self) -> String {
        match &self.kind {
            SettingKind::Quantity { unit, min, max, resolution, .. } => {
                let show = |v: f64| with_unit(&Decimal::rounded(v, *resolution).pretty(), unit);
                format!("{} to {}", show(*min), show(*max))
            }
            SettingKind::Switch { .. } => "on or off".to_owned(),
            SettingKind::Choice { options } => options.iter().map(|(name, _)| *name).collect::<Vec<_>>().join(", "),
            SettingKind::Path { unit, limits, .. } => format!(
                "{} to {} nodes, x from {} to {}, y from {} to {}",
                limits.count[0],
                limits.count[1],
                limits.x[0],
                with_unit(&limits.x[1].to_string(), unit),
                plain(limits.y[0]),
                with_unit(&limits.y[1].to_string(), unit)
            ),
        }
    }

    /// Reads and checks a typed value.
    ///
    /// # Errors
    /// A sentence that says what is wrong and names the range.
    pub fn check(&self, typed: &str) -> Result<SettingValue, String> {
        let label = self.label;
        let shortened = |text: &str| text.chars().take(20).collect::<String>();
        match &self.kind {
            SettingKind::Switch { .. } => match typed.trim() {
                "on" | "1" | "true" => Ok(SettingValue::Switch(true)),
                "off" | "0" | "false" | "" => Ok(SettingValue::Switch(false)),
                other => Err(format!("The {label} can be on or off, not “{}”.", shortened(other))),
            },
            SettingKind::Choice { options } => {
                let typed = typed.trim();
                let found = options.iter().find(|(name, people)| *name == typed || *people == typed);
                let known = || options.iter().map(|(name, _)| *name).collect::<Vec<_>>().join(", ");
                found
                    .map(|(name, _)| SettingValue::Choice((*name).to_owned()))
                    .ok_or_else(|| format!("The {label} can be {}, not “{}”.", known(), shortened(typed)))
            }
            SettingKind::Quantity { blank: Some(meaning), .. } if matches!(typed.trim(), "" | "–" | "-") => {
                Ok(SettingValue::Blank((*meaning).to_owned()))
            }
            SettingKind::Quantity { .. } => self.check_quantity(typed),
            SettingKind::Path { limits, .. } => limits.read(label, typed).map(SettingValue::Path),
        }
    }

    fn check_quantity(&self, typed: &str) -> Result<SettingValue, String> {
        let label = self.label;
        let SettingKind::Quantity { unit, min, max, resolution, .. } = &self.kind else {
            return Err(format!("The {label} is no quantity."));
        };
        let (number, typed_unit) = parse_quantity(typed, unit)?;
        let reading = Reading::typed(number, typed_unit);
        let Some(shown) = reading.in_unit(unit) else {
            return Err(format!(
                "The {label} is given in {}, not in {}.",
                if unit.is_one() { "pure numbers".to_owned() } else { unit.pretty() },
                if reading.unit.is_one() { "a pure number".to_owned() } else { reading.unit.pretty() }
            ));
        };
        // The exact value, not the one rounded for display.
        let value = reading.si() / unit.size();
        let tolerance = resolution * 1e-6;
        // A later program may want less.
        let max = if crate::other_rules::on() { &(min + 0.4 * (max - min)) } else { max };
        if value < min - tolerance || value > max + tolerance {
            return Err(format!(
                "The {label} can be {}; {} is outside.",
                self.range(),
                with_unit(&shown.number.pretty(), unit)
            ));
        }
        let snapped = (value / resolution).round() * resolution;
        if (snapped - value).abs() > tolerance {
            return Err(format!("The {label} can be set in steps of {}.", with_unit(&resolution.to_string(), unit)));
        }
        Ok(SettingValue::Quantity(Decimal::rounded(snapped, *resolution), unit.clone()))
    }
}
