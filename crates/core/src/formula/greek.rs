//! Greek letters and their names: a column with the symbol α is meant by `alpha` too, and the other way round.

use super::Formula;

const LETTERS: [(&str, &str); 28] = [
    ("α", "alpha"),
    ("β", "beta"),
    ("γ", "gamma"),
    ("δ", "delta"),
    ("Δ", "Delta"),
    ("ε", "epsilon"),
    ("ζ", "zeta"),
    ("η", "eta"),
    ("θ", "theta"),
    ("ϑ", "theta"),
    ("ι", "iota"),
    ("κ", "kappa"),
    ("λ", "lambda"),
    ("Λ", "Lambda"),
    ("μ", "mu"),
    ("µ", "mu"),
    ("ν", "nu"),
    ("ξ", "xi"),
    ("ρ", "rho"),
    ("σ", "sigma"),
    ("Σ", "Sigma"),
    ("τ", "tau"),
    ("φ", "phi"),
    ("ϕ", "phi"),
    ("Φ", "Phi"),
    ("χ", "chi"),
    ("ψ", "psi"),
    ("ω", "omega"),
];

/// The same symbol with the names of Greek letters for the letters: θ_0 and theta_0, µ and μ are one.
fn spelled_out(symbol: &str) -> String {
    LETTERS.iter().fold(symbol.to_owned(), |text, (letter, name)| text.replace(letter, name))
}

impl Formula {
    /// The same formula with the symbols as `known` has them, where it knows them by another spelling only: `sin(alpha)` beside a column
    /// α is sin(α).
    pub fn spelled_as<'a>(self, known: impl Iterator<Item = &'a str> + Clone) -> Self {
        let symbols: Vec<String> = self.symbols().into_iter().map(str::to_owned).collect();
        symbols.into_iter().fold(self, |formula, symbol| {
            if known.clone().any(|k| k == symbol) {
                return formula;
            }
            let same = known.clone().find(|k| spelled_out(k) == spelled_out(&symbol));
            same.map_or_else(|| formula.clone(), |other| formula.renamed(&symbol, other))
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn greek_letters_are_known_by_their_names() {
        let known = ["α", "theta_0", "µ", "x", "beta"];
        for (typed, meant) in [
            ("sin(alpha)*x", "sin(α)*x"),
            ("2*θ_0", "2*theta_0"),
            ("mu + μ", "µ + µ"),
            ("beta*β", "beta*beta"),
            ("alphabet + gamma", "alphabet + gamma"),
        ] {
            let formula = Formula::parse(typed).unwrap().spelled_as(known.into_iter());
            assert_eq!(formula.tree(), Formula::parse(meant).unwrap().tree(), "{typed}");
        }
    }
}
