//! Motions without a closed form: integrated with adaptive steps, stopped where something happens.
//!
//! DOP853 with dense output (E. Hairer, S. P. Nørsett, G. Wanner, *Solving Ordinary Differential Equations I*, 2nd edition,
//! II.5 and II.10) from the library `ode_solvers`. An event is a function of the state that falls from above zero to zero; it is
//! noticed between two frames and located by integrating again from the earlier one.

use ode_solvers::{Dop853, OutputType, SVector, System};

use super::RigError;

/// Tolerance per step of the integrator; keeps the energy of a minute's swing to parts in 10⁹.
const TOLERANCE: f64 = 1e-12;
/// Steps after which the solver gives up.
const MOST_STEPS: u32 = 100_000;
/// Frames integrated in one go before events are looked for.
const CHUNK: usize = 64;
/// A time so short that a motion is straight for it, in s.
const SMALL: f64 = 1e-7;
/// Frames of the first step that is tried; the solver's own guess is far too careful, and every chunk would pay for it.
const FIRST: f64 = 1.0;

/// Rate of change of a state. No force of a rig depends on the time itself.
pub(in crate::rigs) type Rate<'a, const N: usize> = &'a dyn Fn(&SVector<f64, N>) -> SVector<f64, N>;
/// Falls to zero where something happens.
pub(in crate::rigs) type Event<'a, const N: usize> = &'a dyn Fn(&SVector<f64, N>) -> f64;

/// A time in s and the state then.
pub(in crate::rigs) type Instant<const N: usize> = (f64, SVector<f64, N>);

/// A piece of a motion.
pub(in crate::rigs) struct Flown<const N: usize> {
    /// States at all frames from the first one not before the start to the last one before the end.
    pub frames: Vec<SVector<f64, N>>,
    /// Where the piece ended.
    pub end: Instant<N>,
    /// Which event ended it; none when its time was over.
    pub event: Option<usize>,
}

/// The solver with its usual control of steps (Hairer, Nørsett, Wanner, II.10) and a first step of our own.
fn solver<'a, const N: usize>(
    rate: Rate<'a, N>,
    y: &SVector<f64, N>,
    end: f64,
    every: f64,
    first: f64,
    output: OutputType,
) -> Dop853<f64, SVector<f64, N>, Rates<'a, N>> {
    let [safety, beta, least, most] = [0.9, 0.0, 0.333, 6.0];
    Dop853::from_param(
        Rates(rate),
        0.0,
        end,
        every,
        *y,
        TOLERANCE,
        TOLERANCE,
        safety,
        beta,
        least,
        most,
        end,
        first,
        MOST_STEPS,
        1000,
        output,
    )
}

struct Rates<'a, const N: usize>(Rate<'a, N>);

impl<const N: usize> System<f64, SVector<f64, N>> for Rates<'_, N> {
    fn system(&self, _t: f64, y: &SVector<f64, N>, dy: &mut SVector<f64, N>) {
        *dy = (self.0)(y);
    }
}

/// Integrates y′ = f(y) from an instant until an event or the time `until`, in s, with a state every `every` s counted from
/// t = 0.
///
/// # Errors
/// [`RigError::Integrator`] when the steps become too small or too many.
pub(in crate::rigs) fn flow<const N: usize>(
    rate: Rate<'_, N>,
    start: Instant<N>,
    until: f64,
    every: f64,
    events: &[Event<'_, N>],
) -> Result<Flown<N>, RigError> {
    let mut frames = Vec::new();
    let mut before = start;
    let mut watch = Watch::new(events, &before);
    let mut next = (start.0 / every - 1e-9).ceil().max(0.0) as usize;
    // From the start to the first frame.
    let first = next as f64 * every;
    if first > start.0 + 1e-12 {
        let to = first.min(until);
        let after = (to, advance(rate, &before.1, to - before.0)?);
        if let Some(found) = watch.happened(rate, &before, &after)? {
            return Ok(Flown { frames, end: found.1, event: Some(found.0) });
        }
        before = after;
    }
    while before.0 < until - 1e-12 {
        let left = ((until - before.0) / every + 1e-9).floor() as usize;
        if left == 0 {
            let after = (until, advance(rate, &before.1, until - before.0)?);
            frames.push(before.1);
            if let Some(found) = watch.happened(rate, &before, &after)? {
                return Ok(Flown { frames, end: found.1, event: Some(found.0) });
            }
            return Ok(Flown { frames, end: after, event: None });
        }
        let count = left.min(CHUNK);
        let states = dense(rate, &before.1, every, count)?;
        for after in &states[1..=count] {
            frames.push(before.1);
            let after = ((next + 1) as f64 * every, *after);
            if let Some(found) = watch.happened(rate, &before, &after)? {
                return Ok(Flown { frames, end: found.1, event: Some(found.0) });
            }
            before = after;
            next += 1;
        }
    }
    Ok(Flown { frames, end: before, event: None })
}

fn failed(e: &impl std::fmt::Display) -> RigError {
    RigError::Integrator(e.to_string())
}

/// States every `every` s, `count` of them after the first.
fn dense<const N: usize>(
    rate: Rate<'_, N>,
    y: &SVector<f64, N>,
    every: f64,
    count: usize,
) -> Result<Vec<SVector<f64, N>>, RigError> {
    // Half a step more than asked for: the solver's dense output may leave out the last instant.
    let end = (count as f64 + 0.5) * every;
    let mut solver = solver(rate, y, end, every, FIRST * every, OutputType::Dense);
    solver.integrate().map_err(|e| failed(&e))?;
    let states = solver.y_out();
    if states.len() <= count {
        return Err(RigError::Integrator("it stopped early".to_owned()));
    }
    Ok(states[..=count].to_vec())
}

/// The state a while later.
fn advance<const N: usize>(rate: Rate<'_, N>, y: &SVector<f64, N>, by: f64) -> Result<SVector<f64, N>, RigError> {
    if by < 1e-13 {
        return Ok(*y);
    }
    let mut solver = solver(rate, y, by, by, by, OutputType::Sparse);
    solver.integrate().map_err(|e| failed(&e))?;
    solver.y_out().last().copied().ok_or_else(|| RigError::Integrator("it gave nothing".to_owned()))
}

/// Events, with what each of them came to at the instant before: it is worked out once.
struct Watch<'a, 'b, const N: usize> {
    events: &'a [Event<'b, N>],
    ahead: Vec<f64>,
}

impl<'a, 'b, const N: usize> Watch<'a, 'b, N> {
    fn new(events: &'a [Event<'b, N>], start: &Instant<N>) -> Self {
        Self { events, ahead: events.iter().map(|event| event(&start.1)).collect() }
    }

    /// The first event between the instant before and another, located to a nanosecond and better.
    fn happened(
        &mut self,
        rate: Rate<'_, N>,
        before: &Instant<N>,
        after: &Instant<N>,
    ) -> Result<Option<(usize, Instant<N>)>, RigError> {
        let mut first: Option<(usize, Instant<N>)> = None;
        for (k, (event, ahead)) in self.events.iter().zip(&mut self.ahead).enumerate() {
            let was = std::mem::replace(ahead, event(&after.1));
            if !(was > 0.0 && *ahead <= 0.0) {
                continue;
            }
            let found = locate(rate, before, after, *event)?;
            if first.as_ref().is_none_or(|(_, f)| found.0 < f.0) {
                first = Some((k, found));
            }
        }
        Ok(first)
    }
}

/// Where an event function crosses zero: Newton's method kept inside its bracket, which is halved where it would leave it (W. H. Press
/// et al., *Numerical Recipes*, 3rd edition, 9.4). The slope is that of the event along the motion.
fn locate<const N: usize>(
    rate: Rate<'_, N>,
    before: &Instant<N>,
    after: &Instant<N>,
    event: Event<'_, N>,
) -> Result<Instant<N>, RigError> {
    let (mut low, mut high) = (0.0, after.0 - before.0);
    let (first, last) = (event(&before.1), event(&after.1));
    let mut at = high * first / (first - last);
    let mut y = advance(rate, &before.1, at)?;
    for _ in 0..60 {
        let here = event(&y);
        if here > 0.0 {
            low = at;
        } else {
            high = at;
        }
        let slope = (event(&(y + rate(&y) * SMALL)) - here) / SMALL;
        let mut next = at - here / slope;
        if !(next >= low && next <= high) {
            next = 0.5 * (low + high);
        }
        let by = next - at;
        at = next;
        // The first places are found from the start of the frame; the last steps are shorter than any error.
        y = if by.abs() < SMALL { y + rate(&y) * by } else { advance(rate, &before.1, at)? };
        if by.abs() < 1e-12 || high - low < 1e-12 {
            break;
        }
    }
    Ok((before.0 + at, y))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_event_is_located_far_finer_than_a_frame() {
        // x″ = −x from x = 1: zero at π/2, with a start that lies between two frames.
        let rate = |y: &SVector<f64, 2>| SVector::<f64, 2>::new(y[1], -y[0]);
        let start = (0.0137, SVector::<f64, 2>::new(0.0137f64.cos(), -(0.0137f64.sin())));
        let flown = flow(&rate, start, 5.0, 0.01, &[&|y| y[0]]).unwrap();
        assert_eq!(flown.event, Some(0));
        assert!((flown.end.0 - std::f64::consts::FRAC_PI_2).abs() < 1e-10, "{}", flown.end.0);
        // Frames 2 to 157: those from 0.02 s to 1.57 s.
        assert_eq!(flown.frames.len(), 156);
        assert!((flown.frames[0][0] - 0.02f64.cos()).abs() < 1e-11);
        let all = flow(&rate, start, 1.0, 0.01, &[]).unwrap();
        assert!(all.event.is_none() && (all.end.1[0] - 1f64.cos()).abs() < 1e-11 && all.end.0 == 1.0);
        assert_eq!(all.frames.len(), 98, "the frame at the very end belongs to the next piece");
    }
}
