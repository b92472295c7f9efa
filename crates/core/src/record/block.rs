//! A block of cells as it comes from elsewhere: pasted from a spreadsheet, or read from a file.

use crate::formula::is_symbol;
use crate::quantity::{Decimal, Unit, UnitError};

/// Largest text of a block, in bytes.
pub const LARGEST_BLOCK: usize = 4_000_000;

/// Cells of a block, with the heads of its columns if it has some.
#[derive(Clone, Debug, PartialEq)]
pub struct Block {
    /// One head a column; `None` when the first line is data already.
    pub heads: Option<Vec<Head>>,
    /// Rows of texts.
    pub rows: Vec<Vec<String>>,
}

/// The head of a column.
#[derive(Clone, Debug, PartialEq)]
pub struct Head {
    /// Name, as far as it can be told from the symbol.
    pub name: String,
    /// Symbol; empty when the head has none that can be used.
    pub symbol: String,
    /// Unit.
    pub unit: Unit,
}

impl Head {
    /// The symbol of the column whose standard uncertainties these are: `v` for the head `u(v)`.
    pub fn uncertainty_of(&self) -> Option<&str> {
        self.name.strip_prefix("u(")?.strip_suffix(')').filter(|s| is_symbol(s))
    }
}

/// Why a text is not a block of cells.
#[derive(Clone, Debug, PartialEq)]
pub enum BlockError {
    /// Longer than a table can be.
    TooLarge,
    /// A line that is none of cells.
    Line {
        /// Which, from 1.
        line: usize,
        /// What the reader of lines says.
        why: String,
    },
    /// No cell in it.
    Empty,
    /// Commas that may mean two things.
    Commas {
        /// Which line, from 1.
        line: usize,
    },
    /// A head whose unit is none.
    Head {
        /// The head, shortened.
        head: String,
        /// What is wrong with its unit.
        error: UnitError,
    },
}

impl Block {
    /// As [`Self::read_whole`], for a text that somebody sends: not larger than a table can be.
    ///
    /// # Errors
    /// [`BlockError`] with the place.
    pub fn read(text: &str) -> Result<Self, BlockError> {
        if text.len() > LARGEST_BLOCK {
            return Err(BlockError::TooLarge);
        }
        Self::read_whole(text)
    }

    /// Reads a text of lines and cells, however long. The cells are parted by tabs, semicolons, bars or commas, whichever the text
    /// uses; a comma between digits is a decimal comma where another sign parts the cells.
    ///
    /// # Errors
    /// [`BlockError`] with the place.
    pub fn read_whole(text: &str) -> Result<Self, BlockError> {
        let text = text.trim_start_matches('\u{FEFF}').trim_matches(['\n', '\r']);
        let separator = separator(text);
        let mut reader = csv::ReaderBuilder::new()
            .delimiter(separator)
            .has_headers(false)
            .flexible(true)
            .trim(csv::Trim::All)
            .from_reader(text.as_bytes());
        let mut rows: Vec<Vec<String>> = Vec::new();
        for line in reader.records() {
            let line = line.map_err(|e| BlockError::Line { line: rows.len() + 1, why: e.to_string() })?;
            rows.push(line.iter().map(str::to_owned).collect());
        }
        if separator == b',' {
            commas_are_clear(&rows)?;
        }
        Self::of_rows(rows)
    }

    /// Makes a block of rows of texts; the first may hold heads.
    ///
    /// # Errors
    /// [`BlockError`] with the place.
    pub fn of_rows(mut rows: Vec<Vec<String>>) -> Result<Self, BlockError> {
        while rows.last().is_some_and(|r| r.iter().all(|c| c.trim().is_empty())) {
            rows.pop();
        }
        let wide = rows.iter().map(Vec::len).max().unwrap_or(0);
        if wide == 0 {
            return Err(BlockError::Empty);
        }
        for row in &mut rows {
            row.resize(wide, String::new());
        }
        let is_head = |cell: &String| !cell.is_empty() && Decimal::parse(cell).is_err();
        let heads = rows[0].iter().any(is_head).then(|| rows.remove(0));
        let heads = heads.map(|texts| texts.iter().map(|t| read_head(t)).collect::<Result<Vec<_>, _>>());
        Ok(Self { heads: heads.transpose()?, rows })
    }
}

/// Whether commas do nothing but part the cells. Below the heads `x,y` the line `1,5,2,0` may be two numbers with decimal commas, and so
/// may four whole numbers without heads.
///
/// # Errors
/// [`BlockError::Commas`].
fn commas_are_clear(rows: &[Vec<String>]) -> Result<(), BlockError> {
    let digits = |cell: &String| !cell.is_empty() && cell.bytes().all(|b| b.is_ascii_digit());
    let [first, rest @ ..] = rows else { return Ok(()) };
    let has_heads = first.iter().any(|c| Decimal::parse(c).is_err());
    let (from, odd) = if has_heads {
        (2, rest.iter().position(|r| r.len() > first.len()))
    } else {
        let paired =
            |r: &Vec<String>| r.len() >= 4 && r.len().is_multiple_of(2) && r.iter().skip(1).step_by(2).all(digits);
        (
            1,
            rows.iter()
                .all(|r| paired(r) && r.iter().all(|c| Decimal::parse(c).is_ok_and(|d| !d.as_str().contains('.'))))
                .then_some(0),
        )
    };
    let Some(odd) = odd else { return Ok(()) };
    Err(BlockError::Commas { line: from + odd })
}

/// The sign that parts the cells.
fn separator(text: &str) -> u8 {
    for (sign, byte) in [('\t', b'\t'), (';', b';'), ('|', b'|')] {
        if text.contains(sign) {
            return byte;
        }
    }
    // Without any other sign, `0,45` alone on every line is one number with a decimal comma.
    let decimal = text.lines().all(|l| Decimal::parse(l).is_ok() || l.trim().is_empty());
    if !text.contains(',') || decimal { b'\t' } else { b',' }
}

/// Reads a head: `L (m)`, `L/m`, `L [m]`, `length L (m)`, `L`, `u(L) (m)`. A word that is no unit counts as a thing that is counted,
/// unless it looks like one.
///
/// # Errors
/// [`BlockError::Head`] when the unit cannot be read.
pub fn read_head(text: &str) -> Result<Head, BlockError> {
    let text = text.trim();
    if text.strip_prefix("u(").and_then(|t| t.strip_suffix(')')).is_some_and(is_symbol) {
        return Ok(Head { name: text.to_owned(), symbol: String::new(), unit: Unit::one() });
    }
    let bracketed = |open: char, close: char| {
        let (before, unit) = text.strip_suffix(close)?.rsplit_once(open)?;
        Some((before.trim(), unit.trim()))
    };
    let slashed = || text.split_once('/').filter(|(s, u)| is_symbol(s.trim()) && Unit::parse(u).is_ok());
    let (before, unit) =
        slashed().or_else(|| bracketed('(', ')')).or_else(|| bracketed('[', ']')).unwrap_or((text, ""));
    let unit = match Unit::parse(unit) {
        Err(UnitError::Unknown(thing)) if thing == unit && is_thing(&thing) => Unit::parse(&format!("\"{thing}\"")),
        other => other,
    };
    let unit = unit.map_err(|error| BlockError::Head { head: text.chars().take(40).collect(), error })?;
    let (name, last) = before.rsplit_once(char::is_whitespace).unwrap_or(("", before));
    Ok(match (is_symbol(last), name.trim()) {
        (true, "") => Head { name: last.to_owned(), symbol: last.to_owned(), unit },
        // The last of several words is a symbol if it is as short as one.
        (true, name) if last.chars().count() <= 4 => Head { name: name.to_owned(), symbol: last.to_owned(), unit },
        _ => Head { name: before.to_owned(), symbol: String::new(), unit },
    })
}

/// Whether a word can be a thing that is counted: long enough, and no unit in other letters, such as `Kg`.
fn is_thing(word: &str) -> bool {
    let otherwise = [word.to_lowercase(), word.to_uppercase()];
    word.chars().count() > 2 && otherwise.iter().all(|w| Unit::parse(w).is_err())
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn heads_are_read_as_spreadsheets_write_them() {
        for (text, name, symbol, unit) in [
            ("L (m)", "L", "L", "m"),
            ("L/m", "L", "L", "m"),
            ("L [m]", "L", "L", "m"),
            ("length L (cm)", "length", "L", "cm"),
            ("t", "t", "t", ""),
            ("F/(kg m/s^2)", "F", "F", "kg m/s^2"),
            ("load (washers)", "load", "load", "\"washers\""),
            ("Time of ten swings (s)", "Time of ten swings", "", "s"),
            ("d (um)", "d", "d", "µm"),
            ("E (kWh)", "E", "E", "kWh"),
            ("t (sec)", "t", "t", "s"),
            ("T (degC)", "T", "T", "°C"),
            ("u(v) (m/s)", "u(v)", "", "m/s"),
            ("u(n)", "u(n)", "", ""),
        ] {
            let head = read_head(text).unwrap();
            assert_eq!(
                (head.name.as_str(), head.symbol.as_str(), head.unit.to_string().as_str()),
                (name, symbol, unit),
                "{text}"
            );
        }
        assert!(matches!(read_head("L (m//s)"), Err(BlockError::Head { head, .. }) if head == "L (m//s)"));
        for asked in ["m (Kg)", "F (N/washer)", "s (KM)", "t (SEC)", "q (xy)"] {
            let unknown = matches!(read_head(asked), Err(BlockError::Head { error: UnitError::Unknown(_), .. }));
            assert!(unknown, "{asked}");
        }
    }

    #[test]
    fn the_sign_between_cells_is_found() {
        let cells = |text: &str| Block::read(text).unwrap().rows;
        for text in ["L (m)\tT (s)\n0,45\t1,35\n", "L (m);T (s)\r\n0,45;1,35\r\n", "\u{FEFF}L|T\n0,45 | 1,35"] {
            assert_eq!(cells(text), [["0,45", "1,35"]], "{text}");
        }
        assert_eq!(cells("L,T\n0.45,1.35"), [["0.45", "1.35"]]);
        assert_eq!(cells("0,45\n0,50"), [["0,45"], ["0,50"]]);
        assert_eq!(cells("\"0,45\",1\n0.5,"), [["0,45", "1"], ["0.5", ""]]);
        assert!(Block::read("\n\n").is_err());
        for (asked, line) in [("x,y\n1,5,2,0", 2), ("x,y\n1.5,2\n1,5,2,0", 3), ("1,5,2,0\n1,6,2,1", 1)] {
            assert!(matches!(Block::read(asked), Err(BlockError::Commas { line: l }) if l == line), "{asked}");
        }
        for clear in ["x,y\n1.5,2.0", "a,b,c,d\n1,5,2,0", "1.5,2.0,3.0,4.0", "1,5,2", "x;y\n1,5;2,0"] {
            assert!(Block::read(clear).is_ok(), "{clear}");
        }
    }

    proptest! {
        #[test]
        fn no_text_makes_the_reader_panic(text in "[0-9,;\t\n\"().a-z/|]{0,80}|\\PC{0,60}") {
            if let Ok(block) = Block::read(&text) {
                let wide = block.rows.first().map_or(0, Vec::len);
                prop_assert!(block.rows.iter().all(|r| r.len() == wide));
            }
        }
    }
}
