//! A hypothesis in checkable form: what is raised, what follows, and along which curve.

use serde::{Deserialize, Serialize};

use super::CurvePick;

/// A hypothesis in checkable form.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(from = "Written")]
pub struct Hypothesis {
    /// What is raised.
    pub cause: String,
    /// What follows.
    pub effect: String,
    /// Along which curve.
    pub curve: CurvePick,
    /// Why.
    pub reason: String,
    /// When it was stated, in seconds since 1970 (UTC); of one from a file, when that was brought.
    pub at: i64,
    /// Whether it was brought from a file, so that nobody knows when it was made.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub brought: bool,
}

/// A hypothesis as stated on the page.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "Stated")]
pub struct Supposed {
    /// What is raised.
    pub cause: String,
    /// What follows.
    pub effect: String,
    /// Along which curve.
    pub curve: CurvePick,
    /// Why.
    pub reason: String,
}

/// Whether a quantity of a hypothesis is the column of that name: “angle of the slope” is the column “angle”.
pub fn is_column(quantity: &str, name: &str) -> bool {
    let (quantity, name) = (quantity.to_lowercase(), name.to_lowercase());
    quantity == name || quantity.starts_with(&format!("{name} "))
}

/// A hypothesis as it was written: before there were curves to pick it had a direction and a shape.
#[derive(Deserialize)]
struct Written {
    cause: String,
    effect: String,
    #[serde(default)]
    curve: Option<CurvePick>,
    #[serde(default)]
    direction: Option<Direction>,
    #[serde(default)]
    shape: Option<Bend>,
    reason: String,
    at: i64,
    #[serde(default)]
    brought: bool,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Stated {
    cause: String,
    effect: String,
    #[serde(default)]
    curve: Option<CurvePick>,
    #[serde(default)]
    direction: Option<Direction>,
    #[serde(default)]
    shape: Option<Bend>,
    reason: String,
}

#[derive(Clone, Copy, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Direction {
    Rises,
    Falls,
    Stays,
}

#[derive(Clone, Copy, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Bend {
    Straight,
    Steeper,
    Flatter,
}

/// The curve that was picked, or that direction and shape describe.
fn picked(curve: Option<CurvePick>, direction: Option<Direction>, shape: Option<Bend>) -> Option<CurvePick> {
    let described = direction.map(|direction| match (direction, shape.unwrap_or(Bend::Straight)) {
        (Direction::Stays, _) => CurvePick::Level,
        (Direction::Rises, Bend::Straight) => CurvePick::RisesStraight,
        (Direction::Rises, Bend::Steeper) => CurvePick::RisesSteeper,
        (Direction::Rises, Bend::Flatter) => CurvePick::RisesFlatter,
        (Direction::Falls, Bend::Straight) => CurvePick::FallsStraight,
        (Direction::Falls, Bend::Steeper) => CurvePick::FallsSteeper,
        (Direction::Falls, Bend::Flatter) => CurvePick::FallsFlatter,
    });
    curve.or(described)
}

impl From<Written> for Hypothesis {
    fn from(w: Written) -> Self {
        let Written { cause, effect, curve, direction, shape, reason, at, brought } = w;
        let curve = picked(curve, direction, shape).unwrap_or(CurvePick::Level);
        Self { cause, effect, curve, reason, at, brought }
    }
}

impl TryFrom<Stated> for Supposed {
    type Error = &'static str;
    fn try_from(s: Stated) -> Result<Self, Self::Error> {
        let Stated { cause, effect, curve, direction, shape, reason } = s;
        let curve = picked(curve, direction, shape).ok_or("a hypothesis needs a curve")?;
        Ok(Self { cause, effect, curve, reason })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_written_with_direction_and_shape_is_read_as_a_curve() {
        let old = r#"{"cause":"angle","effect":"range","direction":"falls","shape":"flatter","reason":"so","at":7}"#;
        let read: Hypothesis = serde_json::from_str(old).unwrap();
        assert_eq!((read.curve, read.brought), (CurvePick::FallsFlatter, false));
        let again: Hypothesis = serde_json::from_str(&serde_json::to_string(&read).unwrap()).unwrap();
        assert_eq!(again, read);
        let stays = r#"{"cause":"mass","effect":"time","direction":"stays","shape":"steeper","reason":"so"}"#;
        assert_eq!(serde_json::from_str::<Supposed>(stays).unwrap().curve, CurvePick::Level);
        assert!(serde_json::from_str::<Supposed>(r#"{"cause":"a","effect":"b","reason":"c"}"#).is_err());
    }
}
