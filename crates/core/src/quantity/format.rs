//! How numbers are written for people: significant figures, uncertainty, minus signs.

use super::unit::{Unit, superscript};

/// The no-break space between a number and its unit (ISO 80000-1, 7.2.1). The thin one, U+202F, is in few fonts.
pub const GAP: char = '\u{A0}';

/// Decimal places needed to show `step`: 3 for 0.001, 0 for 5, -2 for 100.
fn place(step: f64) -> i32 {
    // The tiny shift keeps 0.001, which is stored a little high or low, in its own decade.
    -((step.abs() * (1.0 + 1e-9)).log10().floor() as i32)
}

/// `value` rounded to the decade of `step`, with all its zeros: (4.0399, 0.001) gives `4.040`.
/// Huge and tiny values are written with a power of ten.
pub fn to_step(value: f64, step: f64) -> String {
    if !value.is_finite() {
        return "–".to_owned();
    }
    if !step.is_finite() || step <= 0.0 {
        return plain(value);
    }
    let places = place(step);
    let decade = if value == 0.0 { -places } else { value.abs().log10().floor() as i32 };
    if decade.max(-places) >= 6 || (decade < -4 && places > 5) {
        let digits = (decade + places).clamp(0, 15) as usize;
        return powered(value, digits);
    }
    let rounded = if places < 0 { (value * 10f64.powi(places)).round() * 10f64.powi(-places) } else { value };
    minus(&format!("{rounded:.*}", places.clamp(0, 15) as usize))
}

/// `value` with at most six significant figures and no padding.
pub fn plain(value: f64) -> String {
    if !value.is_finite() {
        return "–".to_owned();
    }
    if value == 0.0 {
        return "0".to_owned();
    }
    let decade = value.abs().log10().floor() as i32;
    if !(-5..7).contains(&decade) {
        return powered(value, 5);
    }
    let text = format!("{value:.*}", (5 - decade).clamp(0, 15) as usize);
    minus(if text.contains('.') { text.trim_end_matches('0').trim_end_matches('.') } else { &text })
}

fn powered(value: f64, digits: usize) -> String {
    let text = format!("{value:.digits$e}");
    match text.split_once('e') {
        Some((mantissa, power)) => {
            format!("{} × 10{}", minus(mantissa), superscript(power.parse().unwrap_or(0)))
        }
        None => text,
    }
}

/// Replaces the hyphen of a negative number by a true minus sign; a rounded −0.00 loses it.
fn minus(text: &str) -> String {
    match text.strip_prefix('-') {
        Some(rest) if rest.chars().all(|c| matches!(c, '0' | '.')) => rest.to_owned(),
        Some(rest) => format!("\u{2212}{rest}"),
        None => text.to_owned(),
    }
}

/// A value with standard uncertainty `u` for sentences: `9.79 ± 0.04`.
///
/// The uncertainty gets one significant figure, two when the first is a 1 or a 2, so that rounding
/// never changes it by more than a quarter (common practice, after JCGM 100:2008, 7.2.6). One that cannot be told, `NaN`, is a question mark.
pub fn plus_minus(value: f64, u: f64) -> String {
    if u.is_nan() {
        return format!("{} ± ?", plain(value));
    }
    if !u.is_finite() || u <= 0.0 {
        return plain(value);
    }
    let step = uncertainty_step(u);
    format!("{} ± {}", to_step(value, step), to_step(u, step))
}

/// A value with standard uncertainty for tables: `9.79(4)`; the bracket counts last digits.
pub fn bracketed(value: f64, u: f64) -> String {
    if !u.is_finite() || u <= 0.0 {
        return plain(value);
    }
    let step = uncertainty_step(u);
    let text = to_step(value, step);
    if step >= 1.0 || text.contains('×') {
        return format!("{text} ± {}", to_step(u, step));
    }
    format!("{text}({})", (u / step).round())
}

fn uncertainty_step(u: f64) -> f64 {
    let decade = u.log10().floor();
    let step = if u / 10f64.powf(decade) < 2.95 { decade - 1.0 } else { decade };
    10f64.powf(step)
}

/// The last digit a worked value can carry: the resolution a reading of the same standard uncertainty
/// would have (JCGM 100:2008, 4.3.7: u = resolution/√12), rounded down to a decade.
pub fn step_for(u: f64) -> f64 {
    let resolution = u * 12f64.sqrt();
    10f64.powi(-place(resolution))
}

/// Joins a number and its unit: `9.81 m/s²`, `22.0°`, `3`; one with its uncertainty gets brackets, `(9.79 ± 0.04) m/s²`.
pub fn with_unit(number: &str, unit: &Unit) -> String {
    let pretty = unit.pretty();
    match pretty.as_str() {
        "" => number.to_owned(),
        "°" if number.contains('±') => format!("({number})°"),
        "°" => format!("{number}°"),
        _ if number.contains('±') => format!("({number}){GAP}{pretty}"),
        _ => format!("{number}{GAP}{pretty}"),
    }
}

/// A share as percent, to two figures.
pub fn percent(share: f64) -> String {
    to_step(100.0 * share, if share < 0.1 { 0.1 } else { 1.0 })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_keep_the_digits_they_have_earned() {
        assert_eq!(to_step(4.0399, 0.001), "4.040");
        assert_eq!(to_step(-0.00004, 0.01), "0.00");
        assert_eq!(to_step(-1.5, 0.1), "−1.5");
        assert_eq!(to_step(1234.0, 100.0), "1200");
        assert_eq!(to_step(1.5e9, 1e7), "1.50 × 10⁹");
        assert_eq!(plain(0.1 + 0.2), "0.3");
        assert_eq!(plain(-2.5e-9), "−2.50000 × 10⁻⁹");
        assert_eq!(plus_minus(9.7912, 0.0412), "9.79 ± 0.04");
        assert_eq!(plus_minus(9.7912, 0.0137), "9.791 ± 0.014");
        assert_eq!(bracketed(9.7912, 0.0412), "9.79(4)");
        assert_eq!(bracketed(4.0306, 0.00096), "4.0306(10)");
        assert_eq!(plus_minus(f64::NAN, 0.1), "– ± 0.10");
        assert_eq!(step_for(0.0116), 0.01);
        assert_eq!(with_unit("22.0", &Unit::parse("deg").unwrap()), "22.0°");
    }
}
