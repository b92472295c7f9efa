//! Slips: what the teacher is told of them, and what the student is asked.

use zeitmass_core::logbook::{AxisPower, Factor, Hint, Mistyped, Sign, Slip, SlipKind};
use zeitmass_core::quantity::format::to_step;

/// A kind of slip in a few words, for lists.
pub fn few_words(kind: SlipKind) -> &'static str {
    match kind {
        SlipKind::Radius => "radius or diameter",
        SlipKind::CrossSection => "cross-section",
        SlipKind::RoundTrip => "there and back",
        SlipKind::MeanVelocity => "mean or final velocity",
        SlipKind::Two => "factor 2",
        SlipKind::Four => "factor 4",
        SlipKind::Pi => "factor π",
        SlipKind::PiSquared => "factor π²",
        SlipKind::TwoPi => "factor 2π",
        SlipKind::PowerOfTen => "power of ten",
        SlipKind::Sixty => "minutes for seconds",
        SlipKind::KilometresPerHour => "km/h for m/s",
        SlipKind::Degrees => "degrees for radians",
        SlipKind::Product => "a quantity left out",
        SlipKind::Square => "not squared",
        SlipKind::Inverted => "axes swapped",
        SlipKind::Sign => "a sign",
        SlipKind::SwappedDigits => "digits swapped",
        SlipKind::LostDigit => "a digit lost",
        SlipKind::DoubledDigit => "a digit doubled",
        SlipKind::MovedPoint => "decimal point",
        SlipKind::Impact => "points after an impact",
        SlipKind::SeveralChanged => "several quantities changed",
    }
}

/// What was seen of a slip, for the teacher.
pub fn evidence(slip: &Slip) -> String {
    match &slip.sign {
        Sign::Times { symbol, times, large, factor, hint } => {
            let way = if *large { "too large" } else { "too small" };
            let off = format!("{symbol} is {} times {way}: {}.", to_step(*times, 0.01), few_words(factor.kind()));
            match hint {
                None => off,
                Some(Hint::Round { symbol }) => format!("{off} {symbol} is a radius or a diameter."),
                Some(Hint::PiAndSquare) => format!("{off} A formula has π and a square."),
                Some(Hint::ThereAndBack) => format!("{off} A signal goes there and back."),
                Some(Hint::Mean { symbol }) => format!("{off} {symbol} is a distance over a time."),
            }
        }
        Sign::OtherSign => "The constant has the right size and the wrong sign.".to_owned(),
        Sign::OtherOperator { symbol, operator } => {
            format!("{symbol} would be right with “{operator}” between its two parts.")
        }
        Sign::SwappedAxes { up, across } => {
            format!("With {up} up and {across} across the constant would come out: the axes are swapped.")
        }
        Sign::AxisPower { symbol, power } => {
            let power = match power {
                AxisPower::Square => "squared",
                AxisPower::Inverse => "inverted",
                AxisPower::Root => "under a root",
            };
            format!(
                "The constant has another unit than it should; with {symbol} {power} on the axis it would have the right one."
            )
        }
        Sign::Unused { symbol, unit } => {
            format!("The constant lacks a factor in {}: {symbol} is in no formula.", unit.pretty())
        }
        Sign::Odd { rows, what } => {
            format!("In {} more than one quantity changed ({what}), and the line goes through them.", numbered(rows))
        }
        Sign::Impact { at } => format!(
            "Two lines that meet at about {at} describe the points far better than one: something happened there, and the fit goes through both sides."
        ),
        Sign::Digits { row, symbol, value, way } => {
            let way = mended(*way);
            format!("Row {row} lies far off the line; with {way} in {symbol} = {value} it would lie on it.")
        }
    }
}

/// The same as a question to the student, which does not say the answer.
pub fn question(slip: &Slip) -> String {
    match &slip.sign {
        Sign::Times { hint: Some(hint), .. } => match hint {
            Hint::Round { symbol } => {
                format!("Is {symbol} the radius or the diameter, and which of them is in the law?")
            }
            Hint::PiAndSquare => "Which area is in the law: the surface, a square, or the cross-section? How does it follow from the diameter?".to_owned(),
            Hint::ThereAndBack => "How far did the signal go in the time that was measured?".to_owned(),
            Hint::Mean { symbol } => {
                format!("Is {symbol} the final velocity or the mean velocity? Which is in the law?")
            }
        },
        Sign::Times { hint: None, factor, .. } => about_factor(*factor).to_owned(),
        Sign::OtherSign | Sign::OtherOperator { .. } => {
            "Which of these quantities have a direction, and does their sign show it?".to_owned()
        }
        Sign::SwappedAxes { .. } => "In the law, which quantity is y and which is x?".to_owned(),
        Sign::AxisPower { .. } => {
            "Which powers do the quantities have in the law, and which are on the axes?".to_owned()
        }
        Sign::Unused { .. } => "Are all quantities of the law in your formula?".to_owned(),
        Sign::Odd { rows, .. } => format!("What else changed in {}, besides the quantity you vary?", numbered(rows)),
        Sign::Impact { at } => {
            format!("What happens at about {at}? Do the points before it and after it belong on one line?")
        }
        Sign::Digits { row, symbol, value, way: _ } => {
            format!("Row {row} lies far off the line. Is {symbol} = {value} what was read?")
        }
    }
}

fn about_factor(factor: Factor) -> &'static str {
    match factor {
        Factor::PowerOfTen => "In which units were the values typed, and in which units are their columns?",
        Factor::Sixty => "Are all times in the unit their column says?",
        Factor::KilometresPerHour => "In which unit is each velocity?",
        Factor::Degrees => "In which unit is each angle, and which does the formula expect?",
        Factor::Pi | Factor::PiSquared | Factor::TwoPi => {
            "Put the law beside your formula, factor by factor. Which of them are squared?"
        }
        Factor::Two | Factor::Four => "Put the law beside your formula, factor by factor. Are all numbers in it?",
    }
}

/// What would mend a typed value.
fn mended(way: Mistyped) -> &'static str {
    match way {
        Mistyped::SwappedDigits => "two digits swapped",
        Mistyped::LostDigit => "one digit more",
        Mistyped::DoubledDigit => "a doubled digit once",
        Mistyped::MovedPoint => "the point moved",
    }
}

fn numbered(rows: &[usize]) -> String {
    let numbers: Vec<String> = rows.iter().map(ToString::to_string).collect();
    format!("{} {}", if rows.len() == 1 { "row" } else { "rows" }, numbers.join(", "))
}
