//! The shapes of the strip: choosing one makes the columns it needs and puts them on the axes.

use crate::logbook::GraphRefusal;
use crate::logbook::Logbook;
use crate::logbook::refusal::{Counted, Limit, Refusal, Thing};

use super::GraphChange;
use crate::fit::{Model, Shape, Transform};
use crate::formula::Formula;
use crate::graph::{AxisSpec, FitSpec, GraphId};
use crate::logbook::change::Change;
use crate::logbook::planning::{Changes, Fresh, LONGEST_NAME};
use crate::logbook::record::RecordChange;
use crate::record::{Column, ColumnId, MOST_COLUMNS, Record};

impl Logbook {
    pub(super) fn plan_shape(&self, graph: GraphId, shape: Shape, fresh: &mut Fresh) -> Changes {
        let plan = self.graph_spec(graph)?;
        if !self.strip_is_open() {
            return Err(Refusal::from(GraphRefusal::StripClosed));
        }
        let (Some(x), Some(y)) = (plan.x, plan.y) else {
            return Err(Refusal::from(GraphRefusal::NothingChosen));
        };
        let (bx, by, _) = self.bases(x, y)?;
        let (table, _, _) = self.column(bx)?;
        let (across, up) = shape.transforms();
        let mut new: Vec<Column> = Vec::new();
        let x_to = self.replaced(table, bx, across, &mut new, fresh)?;
        let y_to = self.replaced(table, by, up, &mut new, fresh)?;
        if table.columns.len() + new.len() > MOST_COLUMNS {
            return Err(Refusal::Limit(Limit::Many { of: Counted::Columns, most: MOST_COLUMNS }));
        }
        let mut changes: Vec<Change> = new
            .into_iter()
            .enumerate()
            .map(|(i, c)| {
                Change::Record(RecordChange::InsertColumn {
                    table: table.id,
                    place: table.columns.len() + i,
                    column: c,
                })
            })
            .collect();
        let mut after = plan.clone();
        after.fit = after
            .fit
            .filter(|f| f.model.is_straight())
            .or(Some(FitSpec { model: Model::Line, weighting: Default::default() }));
        if (plan.x, plan.y) != (Some(x_to), Some(y_to)) {
            (after.x, after.y) = (Some(x_to), Some(y_to));
            (after.across, after.up) = (AxisSpec::default(), AxisSpec::default());
            after.stretches.clear();
            after.more.clear();
            after.look = None;
        }
        if after != *plan {
            changes.push(Change::Graph(GraphChange::Change { graph, plan: Box::new(after) }));
        }
        Ok(changes)
    }

    /// The column that holds a transformed quantity: one that is there, or a new one.
    fn replaced(
        &self,
        table: &Record,
        base: ColumnId,
        transform: Transform,
        new: &mut Vec<Column>,
        fresh: &mut Fresh,
    ) -> Result<ColumnId, Refusal> {
        let column = table.column(base).ok_or(Refusal::Gone(Thing::Column))?;
        let Some(text) = self.transform_formula(table, column, transform) else { return Ok(base) };
        let formula = Formula::parse(&text).map_err(|e| Refusal::formula(&text, e))?;
        let same = |c: &&Column| c.formula.as_ref().is_some_and(|f| f.tree() == formula.tree());
        if let Some(there) = table.columns.iter().chain(new.iter()).find(same) {
            return Ok(there.id);
        }
        let (suffix, name) = match transform {
            Transform::Square => ("sq", format!("{} squared", column.name)),
            Transform::Root => ("rt", format!("root of {}", column.name)),
            Transform::Inverse => ("inv", format!("one over {}", column.name)),
            Transform::InverseSquare => ("isq", format!("one over {} squared", column.name)),
            Transform::Ln | Transform::Same => ("ln", format!("ln of {}", column.name)),
        };
        let short: String = column.symbol.chars().take(8).collect();
        let symbol = self.free_symbol(&format!("{short}_{suffix}"), "", |s| {
            table.columns.iter().chain(new.iter()).any(|c| c.symbol == s || c.stem.as_deref() == Some(s))
        });
        let id = fresh.next();
        let name = name.chars().take(LONGEST_NAME).collect();
        new.push(Column::worked(id, name, symbol, Some(formula)));
        Ok(id)
    }

    /// The formula of a transformed column; `None` for itself.
    fn transform_formula(&self, table: &Record, column: &Column, transform: Transform) -> Option<String> {
        let symbol = &column.symbol;
        Some(match transform {
            Transform::Same => return None,
            Transform::Square => format!("{symbol}^2"),
            Transform::Root => format!("sqrt({symbol})"),
            Transform::Inverse => format!("1/{symbol}"),
            Transform::InverseSquare => format!("1/{symbol}^2"),
            Transform::Ln => match self.unit_of(table, column.id) {
                // A logarithm has pure numbers only: how many units there are.
                Some(unit) if !unit.dimension().is_none() => format!("ln({symbol}/1 [{unit}])"),
                _ => format!("ln({symbol})"),
            },
        })
    }

    /// The columns a strip is about: those on the axes, or the ones they were made from by one of its shapes; and that
    /// shape.
    pub(crate) fn bases(&self, x: ColumnId, y: ColumnId) -> Result<(ColumnId, ColumnId, Shape), Refusal> {
        let (table, _, _) = self.column(x)?;
        let base = |id: ColumnId| {
            let formula = table.column(id)?.formula.as_ref()?;
            let from = formula.symbols().first().and_then(|s| table.by_symbol(s))?;
            let transforms =
                [Transform::Square, Transform::Root, Transform::Inverse, Transform::InverseSquare, Transform::Ln];
            transforms.into_iter().find_map(|t| {
                let text = self.transform_formula(table, from, t)?;
                let same = Formula::parse(&text).is_ok_and(|f| f.tree() == formula.tree());
                same.then_some((from.id, t))
            })
        };
        let (bx, tx) = base(x).unwrap_or((x, Transform::Same));
        let (by, ty) = base(y).unwrap_or((y, Transform::Same));
        let made = |pair| Shape::ALL.iter().copied().find(|s| s.transforms() == pair);
        Ok(match (made((tx, ty)), made((tx, Transform::Same)), made((Transform::Same, ty))) {
            (Some(shape), _, _) => (bx, by, shape),
            (None, Some(shape), _) => (bx, y, shape),
            (None, None, Some(shape)) => (x, by, shape),
            _ => (x, y, Shape::Straight),
        })
    }
}
