//! Plans edits of the claim.

use super::ClaimRefusal;
use super::{ClaimChange, ClaimEdit};
use crate::inquiry::Claim;
use crate::logbook::Logbook;
use crate::logbook::change::Change;
use crate::logbook::planning::Plan;
use crate::logbook::refusal::{Counted, Limit, Refusal, Thing};
use crate::record::RowId;

/// Rows of evidence at most.
pub(in crate::logbook) const MOST_EVIDENCE: usize = 200;

impl Logbook {
    pub(in crate::logbook) fn plan_claim(&self, edit: &ClaimEdit) -> Plan {
        let there = self.state.claim.claim.as_ref();
        let stated = || there.cloned().ok_or_else(|| Refusal::from(ClaimRefusal::NoClaim));
        let claim = match edit {
            ClaimEdit::State { cause, effect, curve } => {
                let (table, _, _) = self.column(*cause)?;
                if table.column(*effect).is_none() {
                    return Err(Refusal::from(ClaimRefusal::TwoTables));
                }
                if cause == effect {
                    return Err(Refusal::from(ClaimRefusal::OneQuantity));
                }
                // Rows of the same table stay chosen when the claim changes its mind.
                let kept = there.map(|c| c.evidence.clone()).unwrap_or_default();
                let evidence = kept.into_iter().filter(|row| table.row(*row).is_some()).collect();
                Some(Claim { cause: *cause, effect: *effect, curve: *curve, evidence })
            }
            ClaimEdit::Withdraw => None,
            ClaimEdit::AddEvidence { rows } => {
                let mut claim = stated()?;
                let full = || Refusal::Limit(Limit::Many { of: Counted::Evidence, most: MOST_EVIDENCE });
                if rows.len() > MOST_EVIDENCE {
                    return Err(full());
                }
                let (table, _, _) = self.column(claim.cause)?;
                for row in rows {
                    table.row(*row).ok_or_else(|| self.not_of_the_claim(*row))?;
                    if !claim.evidence.contains(row) {
                        claim.evidence.push(*row);
                    }
                }
                if claim.evidence.len() > MOST_EVIDENCE {
                    return Err(full());
                }
                Some(claim)
            }
            ClaimEdit::RemoveEvidence { row } => {
                let mut claim = stated()?;
                claim.evidence.retain(|r| r != row);
                Some(claim)
            }
        };
        Ok(if claim.as_ref() == there { Vec::new() } else { vec![Change::Claim(ClaimChange { claim })] }.into())
    }

    fn not_of_the_claim(&self, row: RowId) -> Refusal {
        match self.row(row) {
            Ok(_) => Refusal::from(ClaimRefusal::OtherTable),
            Err(_) => Refusal::Gone(Thing::Row),
        }
    }
}
