//! What each new record is, in the order of the records.

use hashbrown::HashSet;
use ypogram_io::Result;

use crate::engine::reading::Task;
use crate::jobs::compare::gathered::Gathered;
use crate::jobs::compare::joined::{Joined, Other};
use crate::jobs::compare::known::Known;
use crate::jobs::compare::report::CompareCounts;
use crate::jobs::compare::state::State;
use crate::judge::annotate::Part;
use crate::plan::columns::Column;
use crate::plan::fields::FieldPlan;
use crate::plan::outcome::Outcome;

pub(super) struct Settling<'s> {
    pub(super) known: &'s Known,
    pub(super) plan: &'s FieldPlan,
    pub(super) joined: &'s mut Joined,
    pub(super) gathered: &'s mut Gathered,
    pub(super) counts: &'s mut CompareCounts,
    /// The lists of hashes, by place, and their records that a new record has.
    pub(super) hashed_met: HashSet<(usize, u64)>,
}

impl Settling<'_> {
    /// Settles the rows of the next chunk.
    ///
    /// # Errors
    /// Where the temporary folder cannot be used.
    pub(super) fn settle(&mut self, task: &Task, part: &mut Part) -> Result<()> {
        part.comes_behind(0, self.counts.records);
        self.counts.blank_lines += part.blank_lines;
        for nth in 0..part.rows.len() {
            self.counts.records += 1;
            let state = self.state(nth, task, part)?;
            if let Some(near) = &mut self.gathered.near
                && matches!(state, State::New | State::Unusable)
            {
                near.add_new(self.counts.records, part.record(nth, &task.chunk), self.plan)?;
            }
            part.set_text(nth, Column::Compared, state.word());
            part.rows[nth].output = state as u8;
            self.counts.states[state as usize] += 1;
        }
        Ok(())
    }

    /// What the row at `nth` is; which other record it is like is told in its columns.
    fn state(&mut self, nth: usize, task: &Task, part: &mut Part) -> Result<State> {
        let (row, compared) = (part.rows[nth], part.compared[nth]);
        let other = if row.key == 0 { None } else { self.joined.of_new(self.counts.records)? };
        self.hashed_met.extend(compared.known_hash);
        if !matches!(row.outcome, Outcome::Kept | Outcome::Review) {
            return Ok(State::Unusable);
        }
        if compared.withdrawn {
            return Ok(State::Withdrawn);
        }
        let (source, record, rule) = match (other, compared.known_hash) {
            (Some(Other::Known(record, rule)), _) => {
                if let Some(differences) = &mut self.gathered.differences {
                    let of_new = part.record(nth, &task.chunk);
                    differences.add_new(record, self.counts.records, of_new, self.plan)?;
                }
                let (source, number) = self.known.place_of(record);
                (source, number, rule.word())
            }
            (_, Some((list, record))) => (self.known.name_of_hashed(list), record, "sha-256"),
            (Some(Other::New(first)), None) => {
                part.is_same_as(nth, first);
                return Ok(State::Duplicate);
            }
            (None, None) => return Ok(State::New),
        };
        part.set_text(nth, Column::KnownSource, source);
        part.set_number(nth, Column::KnownRecord, record);
        part.set_text(nth, Column::KnownRule, rule);
        Ok(State::Known)
    }
}
