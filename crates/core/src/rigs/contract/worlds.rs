//! Worlds: the strength of gravity at the surface of planets and moons, at the cloud tops of those that have no ground.
//!
//! Source: D. R. Williams, NASA Space Science Data Coordinated Archive, *Planetary Fact Sheets* (the sheets of the single
//! bodies, “surface gravity”, at the equator for the giants at 1 bar, without rotation); values written down from
//! memory. The test compares each with G·M/R² from the gravitational parameters of the JPL ephemerides.

/// A world.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct World {
    /// Name in lab sheets.
    pub name: &'static str,
    /// Strength of gravity, in m/s².
    pub gravity: f64,
}

/// The worlds that are known, in order of distance from the Sun.
pub const WORLDS: [World; 15] = [
    World { name: "Mercury", gravity: 3.70 },
    World { name: "Venus", gravity: 8.87 },
    World { name: "Earth", gravity: 9.81 },
    World { name: "Moon", gravity: 1.62 },
    World { name: "Mars", gravity: 3.71 },
    World { name: "Jupiter", gravity: 24.79 },
    World { name: "Io", gravity: 1.80 },
    World { name: "Europa", gravity: 1.31 },
    World { name: "Ganymede", gravity: 1.43 },
    World { name: "Callisto", gravity: 1.24 },
    World { name: "Saturn", gravity: 10.44 },
    World { name: "Titan", gravity: 1.35 },
    World { name: "Uranus", gravity: 8.87 },
    World { name: "Neptune", gravity: 11.15 },
    World { name: "Pluto", gravity: 0.62 },
];

/// The setting for the strength of gravity, on rigs that have one.
pub(in crate::rigs) const GRAVITY: &str = "gravity";
/// The setting for the world, and its option that leaves gravity to the other setting.
const WORLD: &str = "world";
const UNKNOWN: &str = "unknown";

/// The options of a rig's setting “world”. On the unknown world the rig's own setting “gravity” counts.
pub(in crate::rigs) const OPTIONS: &[(&str, &str)] = &[
    ("Earth", "Earth"),
    ("Moon", "Moon"),
    ("Mars", "Mars"),
    ("Mercury", "Mercury"),
    ("Venus", "Venus"),
    ("Jupiter", "Jupiter"),
    ("Io", "Io"),
    ("Europa", "Europa"),
    ("Ganymede", "Ganymede"),
    ("Callisto", "Callisto"),
    ("Saturn", "Saturn"),
    ("Titan", "Titan"),
    ("Uranus", "Uranus"),
    ("Neptune", "Neptune"),
    ("Pluto", "Pluto"),
    (UNKNOWN, "unknown world"),
];

/// Strength of gravity of the chosen world, in m/s².
pub(in crate::rigs) fn gravity(settings: &super::Settings) -> f64 {
    let chosen = settings.chosen(WORLD);
    WORLDS.iter().find(|w| w.name == chosen).map_or_else(|| settings.get(GRAVITY), |w| w.gravity)
}

/// Which setting decides that strength.
pub(in crate::rigs) fn decided_by(settings: &super::Settings) -> &'static str {
    if settings.chosen(WORLD) == UNKNOWN { GRAVITY } else { WORLD }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Gravitational parameters in km³/s² and radii in km (equator; means for moons): JPL Solar System Dynamics, “Planetary
    /// physical parameters” and “Planetary satellite physical parameters”; from memory.
    #[test]
    fn the_worlds_agree_with_their_mass_and_size() {
        let known = [
            ("Mercury", 22_032.0, 2_439.7),
            ("Venus", 324_859.0, 6_051.8),
            ("Earth", 398_600.4, 6_371.0),
            ("Moon", 4_902.8, 1_737.4),
            ("Mars", 42_828.4, 3_396.2),
            ("Jupiter", 126_686_534.0, 71_492.0),
            ("Io", 5_959.9, 1_821.6),
            ("Europa", 3_202.7, 1_560.8),
            ("Ganymede", 9_887.8, 2_631.2),
            ("Callisto", 7_179.3, 2_410.3),
            ("Saturn", 37_931_187.0, 60_268.0),
            ("Titan", 8_978.1, 2_574.7),
            ("Uranus", 5_793_939.0, 25_559.0),
            ("Neptune", 6_836_529.0, 24_764.0),
            ("Pluto", 869.6, 1_188.3),
        ];
        assert_eq!(known.len(), WORLDS.len());
        for (name, gm, radius) in known {
            let world = WORLDS.iter().find(|w| w.name == name).unwrap();
            let from_mass: f64 = gm / (radius * radius) * 1000.0;
            // Half a last digit, and what flattening and radii add.
            let allowed = 0.005 + 0.002 * from_mass;
            assert!((world.gravity - from_mass).abs() < allowed, "{name}: {} against {from_mass}", world.gravity);
            assert!(OPTIONS.iter().any(|(option, _)| *option == name));
        }
        assert_eq!(OPTIONS.len(), WORLDS.len() + 1);
    }
}
