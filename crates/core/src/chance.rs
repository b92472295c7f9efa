//! Chance that can be dealt again: the same seed gives the same numbers, on every machine and in every version.
//!
//! SplitMix64 (G. L. Steele, D. Lea, C. H. Flood, *Fast splittable pseudorandom number generators*, OOPSLA 2014). A library's
//! generator may change with its next version, and with it every reading that was ever taken.

/// A stream of chance numbers.
#[derive(Clone, Debug)]
pub struct Chance(u64);

impl Chance {
    /// The stream that belongs to a seed, a name and a number.
    pub fn of(seed: u64, name: &str, number: u64) -> Self {
        // FNV-1a over the name, so that two meters of one run err independently.
        let named = name
            .bytes()
            .fold(0xCBF2_9CE4_8422_2325, |h: u64, b| (h ^ u64::from(b)).wrapping_mul(0x0000_0100_0000_01B3));
        let mut chance = Self(seed ^ named.rotate_left(17) ^ number.wrapping_mul(0xD134_2543_DE82_EF95));
        chance.next();
        chance
    }

    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        z ^ (z >> 31)
    }

    /// A seed for other streams.
    pub fn deal(mut self) -> u64 {
        self.next()
    }

    /// Evenly distributed from 0 up to, not including, 1.
    pub fn even(&mut self) -> f64 {
        (self.next() >> 11) as f64 / (1u64 << 53) as f64
    }

    /// Normally distributed with mean 0 and standard deviation 1.
    pub fn normal(&mut self) -> f64 {
        normal(1.0 - self.even(), self.even())
    }
}

/// A number that is normally distributed with mean 0 and standard deviation 1, from two that are evenly distributed: `u` from above 0 to 1,
/// `v` from 0 to 1 (Box and Muller, Ann. Math. Stat. 29 (1958) 610).
pub fn normal(u: f64, v: f64) -> f64 {
    (-2.0 * u.ln()).sqrt() * (std::f64::consts::TAU * v).cos()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn chance_is_dealt_again_and_spreads_as_it_should() {
        let draw = |n| Chance::of(7, "force", n).normal();
        let all: Vec<f64> = (0..20_000).map(draw).collect();
        assert_eq!(all[5], draw(5));
        assert_ne!(draw(5), Chance::of(7, "time", 5).normal());
        let mean = all.iter().sum::<f64>() / 20_000.0;
        let variance = all.iter().map(|v| (v - mean).powi(2)).sum::<f64>() / 19_999.0;
        // Four standard errors of mean and variance.
        assert!(mean.abs() < 0.03 && (variance - 1.0).abs() < 0.04, "{mean} {variance}");
    }
}
