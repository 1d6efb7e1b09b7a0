//! The first records behind each figure of `clean`.

use std::collections::BTreeMap;

use ypogram_core::{Class, Code, CodeSet, Repair};

use crate::engine::reading::Task;
use crate::judge::annotate::Part;
use crate::plan::fields::FieldPlan;
use crate::plan::outcome::Outcome;
use crate::plan::shown_record::ShownRecord;

/// The records behind one figure.
type Behind = Vec<ShownRecord>;

/// The first records behind each figure, while they are seen.
pub(crate) struct BehindFigures {
    plan: FieldPlan,
    most: usize,
    /// The findings that reject.
    rejecting: CodeSet,
    outcomes: Vec<Behind>,
    rejected: Vec<Behind>,
    review: Vec<Behind>,
    repairs: Vec<Behind>,
    handed_over: Vec<Behind>,
}

impl BehindFigures {
    /// None yet, at most so many behind each.
    pub(crate) fn new(most: usize, plan: &FieldPlan, rejecting: CodeSet) -> Self {
        BehindFigures {
            plan: plan.clone(),
            most,
            rejecting,
            outcomes: vec![Behind::new(); Outcome::ALL.len()],
            rejected: vec![Behind::new(); Code::COUNT],
            review: vec![Behind::new(); Code::COUNT],
            repairs: vec![Behind::new(); Repair::ALL.len()],
            handed_over: vec![Behind::new(); Class::COUNT],
        }
    }

    /// Sees the row at `nth` of the part, which was settled; before the chunk there are so many lines. For review, the finding is told
    /// that asks for it.
    pub(crate) fn see(&mut self, task: &Task, part: &Part, nth: usize, lines: u64, asking: usize) {
        let (row, made) = (&part.rows[nth], part.made_of(nth));
        let record = part.record(nth, &task.chunk);
        let (plan, most) = (&self.plan, self.most);
        let add = |behind: &mut Behind| {
            if behind.len() < most {
                let line = lines + record.line_in_chunk() + 1;
                behind.push(ShownRecord::new(task.source, line, record, plan));
            }
        };
        add(&mut self.outcomes[row.outcome as usize]);
        match row.outcome {
            Outcome::Rejected => {
                let first = made.codes.intersection(self.rejecting).first();
                first.into_iter().for_each(|code| add(&mut self.rejected[code.index()]));
            }
            Outcome::Review => add(&mut self.review[asking]),
            _ => {}
        }
        if !matches!(row.outcome, Outcome::Rejected | Outcome::NoAddress) {
            made.repairs.iter().for_each(|repair| add(&mut self.repairs[repair as usize]));
        }
        if let (Outcome::Kept | Outcome::Review, Some(class)) = (row.outcome, row.class) {
            add(&mut self.handed_over[class.index()]);
        }
    }

    /// The records by the name of the figure, those behind which there are some.
    pub(crate) fn by_figure(self) -> BTreeMap<String, Vec<ShownRecord>> {
        let outcomes = Outcome::ALL.iter().map(|outcome| outcome.word().to_owned()).zip(self.outcomes);
        let of_codes = |kind: &'static str, behind: Vec<Behind>| {
            Code::all()
                .map(Code::name)
                .zip(behind)
                .map(move |(name, behind)| (format!("{kind}.{name}"), behind))
        };
        let repairs = Repair::ALL.iter().map(|repair| format!("repair.{}", repair.name())).zip(self.repairs);
        let classes = Class::all().map(|class| format!("handed-over.{}", class.word())).zip(self.handed_over);
        outcomes
            .chain(of_codes("rejected", self.rejected))
            .chain(of_codes("review", self.review))
            .chain(repairs)
            .chain(classes)
            .filter(|(_, behind)| !behind.is_empty())
            .collect()
    }
}
