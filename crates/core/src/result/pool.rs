//! Results of several groups together: weighted mean, and whether the stated uncertainties are believable.

use statrs::distribution::{ChiSquared, ContinuousCDF};

/// Several results of one quantity.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Pooled {
    /// How many went in.
    pub count: usize,
    /// The mean, weighted by 1/u² (W. R. Leo, *Techniques for Nuclear and Particle Physics Experiments*, 4.4.2).
    pub mean: f64,
    /// Its standard uncertainty, if the stated ones are right.
    pub u: f64,
    /// Sum of (x − mean)²/u².
    pub chi2: f64,
    /// The chance that it comes out at least so large by chance alone, with count − 1 degrees of freedom.
    pub chance: f64,
}

impl Pooled {
    /// Pools values with their standard uncertainties; those without one are left out. `None` for fewer than two.
    pub fn of(values: &[(f64, f64)]) -> Option<Self> {
        let sound: Vec<(f64, f64)> =
            values.iter().copied().filter(|(x, u)| x.is_finite() && u.is_finite() && *u > 0.0).collect();
        if sound.len() < 2 {
            return None;
        }
        let weight: f64 = sound.iter().map(|(_, u)| u.powi(-2)).sum();
        let mean = sound.iter().map(|(x, u)| x / (u * u)).sum::<f64>() / weight;
        let chi2 = sound.iter().map(|(x, u)| ((x - mean) / u).powi(2)).sum::<f64>();
        let chance = ChiSquared::new((sound.len() - 1) as f64).map_or(f64::NAN, |d| d.sf(chi2));
        Some(Self { count: sound.len(), mean, u: weight.powf(-0.5), chi2, chance })
    }

    /// What the spread says of the uncertainties.
    pub fn spread(&self) -> Spread {
        Spread::of(self.chance)
    }
}

/// Results of several groups, each held against what is right for its own numbers.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct AgainstKeys {
    /// How many went in.
    pub count: usize,
    /// Those within two of their standard uncertainties.
    pub within: usize,
    /// Sum of (x − key)²/u².
    pub chi2: f64,
    /// The chance that it comes out at least so large by chance alone, with as many degrees of freedom as results.
    pub chance: f64,
}

impl AgainstKeys {
    /// Holds values with their standard uncertainties against their keys; those without an uncertainty are left out. `None` for none.
    pub fn of(values: &[(f64, f64, f64)]) -> Option<Self> {
        let sound = values.iter().filter(|(x, u, key)| x.is_finite() && u.is_finite() && *u > 0.0 && key.is_finite());
        let off: Vec<f64> = sound.map(|(x, u, key)| (x - key) / u).collect();
        let chi2 = off.iter().map(|d| d * d).sum();
        let chance = ChiSquared::new(off.len() as f64).ok()?.sf(chi2);
        Some(Self { count: off.len(), within: off.iter().filter(|d| d.abs() <= 2.0).count(), chi2, chance })
    }

    /// What the distances say of the uncertainties.
    pub fn spread(&self) -> Spread {
        Spread::of(self.chance)
    }
}

/// What results say of their uncertainties by how far they lie apart.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Spread {
    /// They lie farther apart than the uncertainties explain.
    Wide,
    /// They lie closer together.
    Narrow,
    /// They lie as the uncertainties say.
    AsStated,
}

impl Spread {
    /// Of a sum of squares that comes out larger with this chance.
    fn of(chance: f64) -> Self {
        if chance < 0.025 {
            Self::Wide
        } else if chance > 0.975 {
            Self::Narrow
        } else {
            Self::AsStated
        }
    }
}

#[cfg(test)]
mod tests {
    use rand::{RngExt, SeedableRng};

    use super::*;
    use crate::chance::normal;

    #[test]
    fn a_worked_example() {
        // Two values with equal weights, and one that counts a quarter: by hand.
        let p = Pooled::of(&[(10.0, 1.0), (12.0, 1.0), (14.0, 2.0), (99.0, f64::NAN)]).unwrap();
        assert!((p.mean - (10.0 + 12.0 + 3.5) / 2.25).abs() < 1e-12 && (p.u - 1.0 / 1.5).abs() < 1e-12);
        assert_eq!((p.count, Pooled::of(&[(1.0, 0.1)])), (3, None));
    }

    /// A thousand classes of twelve: the mean takes in the truth in 68 % (95 % for two), and honest uncertainties are called believable in 95 %.
    #[test]
    fn the_mean_takes_in_the_truth() {
        let mut rng = rand::rngs::StdRng::seed_from_u64(5);
        let mut normal = || normal(rng.random::<f64>().max(1e-300), rng.random());
        let (mut one, mut two, mut believed) = (0, 0, 0);
        let (mut within, mut own_believed) = (0, 0);
        for _ in 0..1000 {
            let values: Vec<(f64, f64)> =
                (0..12).map(|k| 0.02 * f64::from(1 + k % 4)).map(|u| (9.81 + u * normal(), u)).collect();
            let p = Pooled::of(&values).unwrap();
            let off = (p.mean - 9.81).abs() / p.u;
            (one, two) = (one + u32::from(off <= 1.0), two + u32::from(off <= 2.0));
            believed += u32::from(p.spread() == Spread::AsStated);
            // Each with a key of its own: the same numbers, moved.
            let moved: Vec<_> =
                values.iter().zip(0..).map(|((x, u), k)| (x + f64::from(k), *u, 9.81 + f64::from(k))).collect();
            let own = AgainstKeys::of(&moved).unwrap();
            (within, own_believed) = (within + own.within, own_believed + u32::from(own.spread() == Spread::AsStated));
        }
        assert!((11_220..=11_700).contains(&within) && (930..=970).contains(&own_believed), "{within} {own_believed}");
        assert!(
            (650..=710).contains(&one) && (930..=970).contains(&two) && (930..=970).contains(&believed),
            "{one} {two} {believed}"
        );
    }
}
