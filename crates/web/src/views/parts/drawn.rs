//! Values of curves and results, to be entered into a table.

use zeitmass_core::logbook::{Analysis, Logbook};
use zeitmass_core::quantity::format::{plus_minus, with_unit};
use zeitmass_core::quantity::{DrawnFrom, Unit};
use zeitmass_core::record::ColumnKind;

use crate::wish::json;

/// Buttons of single values at most; beyond, one enters them all.
const MOST_BUTTONS: usize = 8;

/// A value with the button that enters it.
pub(crate) struct DrawnView {
    pub label: String,
    pub value: String,
    /// As JSON.
    pub source: String,
    /// Column and table it goes into where nobody pointed at a cell; none where no column takes it.
    pub column: u32,
    pub table: u32,
    /// What to do when no column takes it.
    pub hint: String,
}

/// A choice of a form: its value as JSON, and its name.
pub(crate) struct Choice {
    pub value: String,
    pub label: String,
}

/// What a curve or a result offers to the tables.
#[derive(Default)]
pub(crate) struct DrawnPart {
    pub values: Vec<DrawnView>,
    /// Values that there are several of, one a curve or group.
    pub alike: Vec<Choice>,
    /// Columns that take them.
    pub columns: Vec<Choice>,
}

/// Columns of other tables that take a value of this unit: column, table and name.
fn takers(book: &Logbook, source: &DrawnFrom, unit: &Unit) -> Vec<(u32, u32, String)> {
    let tables = &book.state().record.tables;
    let all = tables.iter().filter(|t| book.may_take(source, t.id)).flat_map(|t| {
        let fits = t.columns.iter().filter(|c| {
            let own = c.unit.clone().unwrap_or_default();
            c.kind == ColumnKind::Read && !c.filled && own.same_dimension(unit)
        });
        fits.map(|c| {
            (c.id, t.id, if tables.len() > 1 { format!("{} in {}", c.symbol, t.name) } else { c.symbol.clone() })
        })
    });
    all.collect()
}

/// What can be entered of these values; `alike` names one of several of a kind. A value that is not complete is left out.
pub(crate) fn drawn_part(
    book: &Logbook,
    analysis: &Analysis,
    values: &[(String, DrawnFrom)],
    alike: &[(String, DrawnFrom)],
) -> DrawnPart {
    let mut part = DrawnPart::default();
    for (label, source) in values.iter().take(MOST_BUTTONS) {
        let Ok(found) = book.draw(analysis, source) else { continue };
        let size = found.unit.size();
        let value = with_unit(&plus_minus(found.value.value / size, found.value.u() / size), &found.unit);
        let taker = takers(book, source, &found.unit).into_iter().next();
        let hint = match taker {
            Some(_) => String::new(),
            None if found.unit.is_one() => "Add a column without a unit to another table first.".to_owned(),
            None => format!("Add a column in {} to another table first.", found.unit.pretty()),
        };
        let (column, table, _) = taker.unwrap_or_default();
        part.values.push(DrawnView { label: label.clone(), value, source: json(source), column, table, hint });
    }
    for (label, source) in alike {
        let all = book.alike(analysis, source);
        let Some(found) = all.first().filter(|_| all.len() > 1).and_then(|one| book.draw(analysis, one).ok()) else {
            continue;
        };
        for (column, _, name) in takers(book, source, &found.unit) {
            let value = column.to_string();
            if part.columns.iter().all(|c| c.value != value) {
                part.columns.push(Choice { value, label: name });
            }
        }
        part.alike.push(Choice { value: json(source), label: label.clone() });
    }
    part
}
