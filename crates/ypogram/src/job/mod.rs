//! Jobs of the rulebook: steps that are run one after the other, and published together.

mod add_step;
mod outputs;
mod parent;
mod publish;
mod receipt;
mod run_step;
mod since;
mod staging;
mod step;

pub(crate) use add_step::AddStep;
pub(crate) use outputs::{refuse_tables_before_others, refuse_what_is_there};
pub(crate) use parent::end_with_it;
pub(crate) use publish::{finish_earlier, publish};
pub(crate) use receipt::receipt;
pub(crate) use run_step::{Asked, StepReport, page_data, run_step};
pub(crate) use since::hold_against;
pub(crate) use staging::Staging;
pub(crate) use step::{Source, Step, steps};
