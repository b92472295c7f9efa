//! Recordings: what a run's recorders wrote becomes a table, or further repeats in one there is.

use crate::logbook::Heard;
use crate::logbook::Logbook;
use crate::logbook::RunRefusal;
use crate::logbook::change::Change;
use crate::logbook::film::plan::filled;
use crate::logbook::planning::{Fresh, Plan, Planned};
use crate::logbook::record::RecordChange;
use crate::logbook::refusal::{Counted, Limit, Refusal, Thing};
use crate::quantity::{Origin, Reading};
use crate::record::{Column, ColumnKind, MOST_COLUMNS, MOST_ROWS, MOST_TABLES, Record, Row, TableId};
use crate::rigs::{Channel, Role};

/// What one recorder wrote, a reading for each row.
struct Written<'a> {
    channel: &'a Channel,
    readings: Vec<Reading>,
}

impl Logbook {
    pub(super) fn plan_recording(
        &self,
        names: &[String],
        (from, to): (u32, u32),
        every: u32,
        into: Option<TableId>,
        fresh: &mut Fresh,
    ) -> Plan {
        let number = self.state.run_on_stage().ok_or(Refusal::Gone(Thing::Run))?;
        let run = self.footage(number).ok_or(Refusal::Gone(Thing::Run))??;
        let frames = run.frames() as u32;
        let (from, to) = (from.min(to), from.max(to).min(frames.saturating_sub(1)));
        let every = every.max(1);
        let rows = (to.saturating_sub(from) / every + 1) as usize;
        if names.is_empty() || from >= frames || rows < 2 {
            return Err(Refusal::from(RunRefusal::TooFew));
        }
        let tables = self.state.record.tables.len() + usize::from(into.is_none());
        if rows > MOST_ROWS || names.len() + 1 > MOST_COLUMNS || tables > MOST_TABLES {
            return Err(Refusal::from(RunRefusal::TooLong { rows, most_rows: MOST_ROWS, most_tables: MOST_TABLES }));
        }
        let mut wanted: Vec<&str> = self.sheet.card.channel_of(Role::Time).iter().map(|c| c.name).collect();
        for name in names {
            match self.sheet.recordable.iter().find(|r| *r == name) {
                Some(name) if !wanted.contains(name) => wanted.push(name),
                Some(_) => {}
                None => return Err(Refusal::from(RunRefusal::NotRecorded { name: name.clone() })),
            }
        }
        let channels = wanted.iter().filter_map(|w| run.channels.iter().find(|c| c.spec.name == *w));
        let written = channels.map(|channel| {
            let readings = (0..rows as u32).filter_map(|i| {
                let frame = from + i * every;
                let (unit, resolution) = (channel.spec.unit.clone(), channel.spec.resolution);
                let origin = Origin::Recorded { run: number, frame };
                Some(Reading { number: channel.written(frame as usize)?, unit, resolution, origin })
            });
            Written { channel, readings: readings.collect() }
        });
        let written: Vec<Written<'_>> = written.collect();
        match into {
            Some(table) => self.further_runs(table, written, fresh),
            None => Ok(self.new_recording(number, written, fresh)),
        }
    }

    fn new_recording(&self, number: u32, written: Vec<Written<'_>>, fresh: &mut Fresh) -> Planned {
        let columns: Vec<Column> = written
            .iter()
            .map(|w| {
                let spec = &w.channel.spec;
                filled(fresh.next(), ColumnKind::Read, spec.label, spec.symbol, spec.unit.clone())
            })
            .collect();
        let count = written.first().map_or(0, |w| w.readings.len());
        let rows = (0..count).map(|i| {
            let cells = columns.iter().zip(&written).map(|(c, w)| (c.id, Box::new(w.readings[i].clone())));
            let cells = cells.collect();
            Row { id: fresh.next(), cells, ..Row::default() }
        });
        let rows: Vec<Row> = rows.collect();
        let name = self.free_name(&format!("Run {number}"));
        let heard = vec![Heard::Recorded { instants: rows.len(), table: name.clone() }];
        let table = Record { id: fresh.next(), name, columns, rows, ..Record::default() };
        let place = self.state.record.tables.len();
        let insert = RecordChange::InsertTable { place, table: table.into() };
        Planned { heard, ..vec![Change::Record(insert)].into() }
    }

    /// Each quantity becomes one more run of its column: row by row beside those there are, with new rows below for what goes on longer.
    fn further_runs(&self, id: TableId, written: Vec<Written<'_>>, fresh: &mut Fresh) -> Plan {
        let table = self.state.record.tables.iter().find(|t| t.id == id).ok_or(Refusal::Gone(Thing::Table))?;
        let of = |w: &Written<'_>| {
            let symbol = w.channel.spec.symbol;
            table
                .columns
                .iter()
                .find(|c| c.kind == ColumnKind::Read && (c.symbol == symbol || c.stem.as_deref() == Some(symbol)))
        };
        let strange = |w: &Written<'_>| {
            Refusal::from(RunRefusal::NoSuchRepeat {
                table: table.name.clone(),
                symbol: w.channel.spec.symbol.to_owned(),
            })
        };
        let (time, quantities): (Vec<_>, Vec<_>) = written.into_iter().partition(|w| w.channel.spec.role == Role::Time);
        let clock = time.first().and_then(&of);
        // From the right, so that the places of those further left stay.
        let mut quantities = quantities;
        quantities
            .sort_by_key(|w| std::cmp::Reverse(of(w).and_then(|c| table.columns.iter().position(|t| t.id == c.id))));
        if table.columns.len() + quantities.len() > MOST_COLUMNS {
            return Err(Refusal::Limit(Limit::Many { of: Counted::Columns, most: MOST_COLUMNS }));
        }
        let mut columns = Vec::new();
        let mut changes = Vec::new();
        for w in quantities {
            let column = of(&w).ok_or_else(|| strange(&w))?;
            // The first one goes into the column as it stands.
            if table.rows.iter().all(|row| !row.cells.contains_key(&column.id)) {
                columns.push((column.id, w));
                continue;
            }
            // The new run's column gets the next id.
            let planned = self.plan_add_run(column.id, fresh)?;
            let added = planned.changes.iter().rev().find_map(|c| {
                if let Change::Record(RecordChange::InsertColumn { column, .. }) = c { Some(column.id) } else { None }
            });
            columns.push((added.ok_or(Refusal::Gone(Thing::Column))?, w));
            changes.extend(planned.changes);
        }
        let count = columns.first().map_or(0, |(_, w)| w.readings.len());
        if table.rows.len().max(count) > MOST_ROWS {
            return Err(Refusal::Limit(Limit::Many { of: Counted::Rows, most: MOST_ROWS }));
        }
        // The same moments stand in the same rows.
        if let (Some(clock), Some(now)) = (clock, time.first()) {
            let shown = table.rows.iter().map(|r| r.cells.get(&clock.id).map(|c| c.si()));
            let differs =
                shown.zip(&now.readings).any(|(there, now)| there.is_some_and(|t| (t - now.si()).abs() > 1e-9));
            if differs {
                return Err(Refusal::from(RunRefusal::OtherInstants { table: table.name.clone() }));
            }
        }
        for i in 0..count {
            if i < table.rows.len() {
                let moment = clock.zip(time.first()).filter(|(c, _)| !table.rows[i].cells.contains_key(&c.id));
                let all = columns.iter().map(|(column, w)| (*column, w)).chain(moment.map(|(c, w)| (c.id, w)));
                changes.extend(all.map(|(column, w)| {
                    let reading = Some(w.readings[i].clone());
                    Change::Record(RecordChange::Cell { table: id, row: i, column, reading })
                }));
            } else {
                let cells = columns.iter().map(|(column, w)| (*column, Box::new(w.readings[i].clone())));
                let moment = clock.zip(time.first()).map(|(c, w)| (c.id, Box::new(w.readings[i].clone())));
                let row = Row { id: fresh.next(), cells: cells.chain(moment).collect(), ..Row::default() };
                changes.push(Change::Record(RecordChange::InsertRow { table: id, place: i, row }));
            }
        }
        Ok(Planned { heard: vec![Heard::RecordedAsRepeat { table: table.name.clone() }], ..changes.into() })
    }

    fn free_name(&self, wanted: &str) -> String {
        let taken = |name: &str| self.state.record.tables.iter().any(|t| t.name == name);
        let all = std::iter::once(wanted.to_owned()).chain((2..).map(|k| format!("{wanted}, {k}")));
        all.into_iter().find(|n| !taken(n)).unwrap_or_default()
    }
}
