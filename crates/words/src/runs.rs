//! How motions end, with what to change where a setting is no good.

use zeitmass_core::rigs::{Ending, Happening, RunOutcome};

use crate::Words;

/// Empty where there is nothing to tell.
impl Words for RunOutcome {
    fn words(&self) -> String {
        self.told.as_ref().map_or_else(String::new, Words::words)
    }
}

/// The word at a mark of the beat rail.
impl Words for Happening {
    fn words(&self) -> String {
        let said = match self {
            Self::Leaves => "leaves the track",
            Self::Lands => "lands",
            Self::Strikes => "strikes it from below",
            Self::Ends => "end of the track",
        };
        said.to_owned()
    }
}

impl Words for Ending {
    #[allow(clippy::too_many_lines, reason = "a list: one ending after the other")]
    fn words(&self) -> String {
        let said = match self {
            Self::Said(said) => return said.clone(),
            Self::PulledByHand => "Pulled by hand, and recorded as it was.",
            Self::HeldByAir => {
                "The body is so light for its size that the air holds it almost still, and there is no motion to measure. Take a heavier or a smaller body, or thinner air."
            }
            Self::EndOfRail { right } => {
                let side = if *right { "right" } else { "left" };
                return format!("The shuttle came to the {side} end of the rail, and the run ended there.");
            }
            Self::NoVelocity => {
                "No part has a velocity or an acceleration, so the shuttle stays at rest. Give part 1 one."
            }
            Self::NothingPushes => {
                "Nothing pushes the trolley, and it stays where it is. Switch a thrust unit on, or give it a start velocity."
            }
            Self::FrictionHoldsTrolley => {
                "Friction holds the trolley: the thrust is smaller than the largest friction at rest. Push harder, or take load off."
            }
            Self::RestsBeforeBuffer => {
                "The trolley comes to rest before it reaches the buffer. Push harder, start faster or shorten the rail."
            }
            Self::RollsOffStart => {
                "The trolley rolls back off the start of the rail and never reaches the buffer. Turn more thrust forward."
            }
            Self::MissesBuffer { seconds } => {
                return format!(
                    "The trolley does not reach the buffer within {seconds:.0} s. Push harder or shorten the rail."
                );
            }
            Self::NeverMeet => {
                "The carriages never collide on this rail. The first must start behind the second and be faster."
            }
            Self::NotPastMast { seconds } => {
                return format!(
                    "Not both cabins are past the mast within {seconds:.0} s. Let the slower one go faster."
                );
            }
            Self::FrictionHoldsSledge => {
                "Friction holds the sledge: the slope is too flat for it to start by itself. Make the slope steeper, or the runners smoother."
            }
            Self::MissesFoot { seconds } => {
                return format!("It does not reach the foot within {seconds:.0} s. Make the slope steeper or shorter.");
            }
            Self::Slips => "It slips: the grip is too small to roll down this slope.",
            Self::NodesTogether { first } => {
                return format!(
                    "Nodes {first} and {} lie on top of one another. Move one of them, or remove it.",
                    first + 1
                );
            }
            Self::TwoNodesWanted => "A track needs two nodes at least.",
            Self::NoNodeBehindLoop => {
                "A loop stands between two nodes: there is none behind the last. Put a node there."
            }
            Self::BendsSharply { x } => {
                return format!(
                    "The track bends too sharply at x = {x:.2} m. Move the nodes there farther apart, or more in a line."
                );
            }
            Self::CrossesItself { x, y } => {
                return format!(
                    "The track crosses itself at x = {x:.2} m, y = {y:.2} m. Only a loop may do so. Move the nodes apart there."
                );
            }
            Self::StartBeyondTrack { length } => {
                return format!(
                    "The track is {length:.2} m long: the start lies beyond its end. Start farther back, or make the track longer."
                );
            }
            Self::StaysOnTrack => {
                "It stays where it is: friction holds it, or the track is level there. Start higher up, with a push, or with less friction."
            }
            Self::OffTrackAtOnce => "It is off the track at once. Start farther from the end, or slower.",
            Self::ComesToRest => "It comes to rest.",
            Self::LeavesAndFalls => "It leaves the track and falls.",
            Self::PastEndOfTrack => "It goes past the end of the track and falls.",
            Self::LeavesTrack => "It leaves the track on the way.",
            Self::RisesOutOfShaft => {
                "The body is lighter than what it displaces: it rises out of the shaft. Take a heavier or a smaller one."
            }
            Self::FliesOutOfShaft => {
                "The body flies out of the shaft. Push it less, give it less impulse, or take more gravity."
            }
            Self::MissesFloor { seconds } => {
                return format!(
                    "The body does not reach the floor within {seconds:.0} s. Take less height, or what resists it less."
                );
            }
            Self::FastForOil => {
                "The body moves so fast that drag in oil is no longer proportional to the speed (Reynolds number above 1): the run shows what the simple law would give. Take a smaller body or thicker oil."
            }
            Self::SteadySpeed => "It has reached its terminal speed.",
            Self::OutOfYard { ends } => {
                return format!(
                    "Thrown out of the yard, which ends {ends:.0} m ahead, or still in the air after a minute. Throw slower, steeper or with more air."
                );
            }
            Self::OnGroundAtOnce => "It is on the ground at once. Throw from a height, or upwards.",
            Self::SpringTears => {
                "That is more than this spring can bear: it would be stretched beyond 80 cm and stay bent. Take less load, pull it less or take a stiffer spring."
            }
            Self::SpringSlack => {
                "Pulled so far, the load would jump up until the spring goes slack. Pull it less, or hang on more."
            }
            Self::SpringWithoutLoad => "There is no load on the spring that could swing. Hang one on it.",
            Self::BallsTouch { apart } => {
                return format!(
                    "Balls of lead as heavy as these touch at {apart:.0} mm from centre to centre. Take a larger distance or smaller masses."
                );
            }
            Self::BallsComeNear => {
                "The bar would turn so far that the balls come much nearer, or touch. Take a stiffer wire, a larger distance or smaller masses."
            }
            Self::CordTears { bears } => {
                return format!(
                    "The cord would tear: it bears {bears:.0} N. Go slower, take less mass or a larger radius."
                );
            }
            Self::LiquidBoils { x, kilopascals } => {
                return format!(
                    "The liquid would boil {x:.1} m along the pipe: its pressure cannot fall below {kilopascals:.1} kPa. Take a smaller flow, a wider or lower pipe there, or more pressure at station 1."
                );
            }
            Self::GaugeAtSurface => "Gauge 1 is at the surface and feels the air alone.",
            Self::StartsInSun => "A planet starts inside the sun. Start farther out.",
            Self::FallsIntoSun { circle } => {
                return format!("It falls into the sun: it is too slow across. {}", speeds(*circle));
            }
            Self::Escapes { circle } => {
                return format!("It escapes and never comes back: it is too fast. {}", speeds(*circle));
            }
            Self::MoonLost => {
                "The moon is not on the plate and its echo is lost. Turn the dish to where the strength of the echo grows."
            }
            Self::NoDiscs => "There is nothing to throw. Take some discs, ten at least.",
            Self::EmptyTray => "The tray is empty: the balance shows the tray alone.",
        };
        said.to_owned()
    }
}

/// What speeds do at a distance from the sun where so many km/s keep a body on a circle.
fn speeds(circle: f64) -> String {
    format!(
        "At this distance {circle:.1} km/s keeps it on a circle, and {:.1} km/s is enough to escape.",
        circle * 2f64.sqrt()
    )
}
