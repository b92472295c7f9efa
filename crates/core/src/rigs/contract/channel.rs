//! Channels: what a rig records, each declared and delivered as one value.

use super::card::unit;
use super::{Channel, Run, RunOutcome, Sampling};
use crate::quantity::{Decimal, Unit};

/// One recorded quantity. Its values are in coherent SI units.
#[derive(Clone, Debug)]
pub struct ChannelSpec {
    /// Name, also the head of its column.
    pub name: &'static str,
    /// Symbol of its column in a recording.
    pub symbol: &'static str,
    /// Unit in which they are written.
    pub unit: Unit,
    /// Smallest step of a recording, in `unit`.
    pub resolution: f64,
    /// What it is for whoever knows no rig.
    pub role: Role,
    /// Name for people: that of the trade where there is a short one.
    pub label: &'static str,
    /// Whether it is what anybody sees of the motion, and tells no force, mass or energy.
    pub seen: bool,
}

/// What a channel is for whoever knows no rig.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Role {
    /// The time since the start.
    Time,
    /// Where the body is, along x.
    PlaceX,
    /// Where the body is, along y.
    PlaceY,
    /// Something of the rig's own.
    Own,
}

/// A channel of a motion that has the state `S` at a moment: what it is called, and how it follows from the state.
#[derive(Clone, Debug)]
pub(in crate::rigs) struct Recorder<S> {
    spec: ChannelSpec,
    value: fn(&S) -> f64,
}

/// A channel by name, symbol, unit and step of a recording.
pub(in crate::rigs) fn recorder<S>(
    name: &'static str,
    symbol: &'static str,
    u: &str,
    resolution: f64,
    value: fn(&S) -> f64,
) -> Recorder<S> {
    let (role, unit) = (Role::Own, unit(u));
    Recorder { spec: ChannelSpec { name, symbol, unit, resolution, role, label: name, seen: false }, value }
}

impl<S> Recorder<S> {
    /// The same with a role. A time and a place are seen.
    pub fn of(mut self, role: Role) -> Self {
        self.spec.role = role;
        self.seen()
    }

    /// The same under a name for people.
    pub fn called(mut self, label: &'static str) -> Self {
        self.spec.label = label;
        self
    }

    /// The same as something that is seen.
    pub fn seen(mut self) -> Self {
        self.spec.seen = true;
        self
    }
}

/// The body's place, in m, recorded to a step in m.
pub(in crate::rigs) fn place<S>(resolution: f64, x: fn(&S) -> f64, y: fn(&S) -> f64) -> [Recorder<S>; 2] {
    [
        recorder("x", "x", "m", resolution, x).of(Role::PlaceX).called("position x"),
        recorder("y", "y", "m", resolution, y).of(Role::PlaceY).called("position y"),
    ]
}

/// A state that knows its energies.
pub(in crate::rigs) trait Energetic {
    /// Kinetic, potential and total energy, in J.
    fn energies(&self) -> [f64; 3];
}

/// Channels of the energies of one body.
pub(in crate::rigs) fn energies<S: Energetic>() -> [Recorder<S>; 3] {
    [
        recorder("kinetic energy", "E_k", "J", 0.001, |s: &S| s.energies()[0]),
        recorder("potential energy", "E_p", "J", 0.001, |s: &S| s.energies()[1]),
        recorder("total energy", "E", "J", 0.001, |s: &S| s.energies()[2]),
    ]
}

/// Kinetic, potential and total energy, in J. The potential energy is m·g·y, as a moment of a motion reckons it too.
pub(in crate::rigs) fn energies_of(kinetic: f64, mass: f64, gravity: f64, y: f64) -> [f64; 3] {
    let potential = mass * gravity * y;
    [kinetic, potential, kinetic + potential]
}

/// The channels of a card: time, unless one of these is it, and these.
pub(in crate::rigs) fn specs<S>(recorders: &[Recorder<S>]) -> Vec<ChannelSpec> {
    let time = ChannelSpec {
        name: "t",
        symbol: "t",
        unit: unit("s"),
        resolution: 0.001,
        role: Role::Time,
        label: "time",
        seen: true,
    };
    let own = recorders.iter().any(|r| r.spec.role == Role::Time);
    Some(time).filter(|_| !own).into_iter().chain(recorders.iter().map(|r| r.spec.clone())).collect()
}

impl Channel {
    /// What a recorder writes at a frame: the value to its step, and the step, in the unit of the channel.
    pub fn written(&self, frame: usize) -> Option<Decimal> {
        Some(Decimal::rounded(self.values.get(frame)? / self.spec.unit.size(), self.spec.resolution))
    }
}

impl Run {
    /// Records a motion, frame by frame: the time, and what follows from the state at each frame.
    pub(in crate::rigs) fn record<S>(
        recorders: &[Recorder<S>],
        sampling: Sampling,
        frames: usize,
        at: impl Fn(usize) -> S,
    ) -> Self {
        let specs = specs(recorders).into_iter();
        let mut channels: Vec<Channel> =
            specs.map(|spec| Channel { spec, values: Vec::with_capacity(frames) }).collect();
        for frame in 0..frames {
            let state = at(frame);
            let time = Some(sampling.time(frame)).filter(|_| channels.len() > recorders.len());
            let values = time.into_iter().chain(recorders.iter().map(|r| (r.value)(&state)));
            channels.iter_mut().zip(values).for_each(|(c, v)| c.values.push(v));
        }
        Self { sampling, channels, found: Vec::new(), outcome: RunOutcome::default(), marks: Vec::new() }
    }
}
