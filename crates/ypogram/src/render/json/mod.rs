//! Summaries for programs. Each begins with the same names; the layouts are in `docs/json.md` and `docs/schemas`.

mod bounces;
mod check;
mod clean;
mod compare;
mod dedupe;
mod domains;
mod explain;
mod extract;
#[cfg(feature = "sqlite")]
mod guard;
mod learn_house;
mod links;
mod lists;
mod redact;
#[cfg(feature = "sqlite")]
mod register;
mod rules;
mod summary;
mod survey;

pub(crate) use bounces::bounces;
pub(crate) use check::{check, split};
pub(crate) use clean::clean;
pub(crate) use compare::compare;
pub(crate) use dedupe::dedupe;
pub(crate) use domains::domains;
pub(crate) use explain::explained;
pub(crate) use extract::{by_record, extract};
#[cfg(feature = "sqlite")]
pub(crate) use guard::guarded;
pub(crate) use learn_house::learned;
pub(crate) use links::links;
pub(crate) use lists::{decisions_checked, list_checked, list_edited};
pub(crate) use redact::{redacted, searched};
#[cfg(feature = "sqlite")]
pub(crate) use register::{Contents, added, contents, verified};
pub(crate) use rules::{RulebookCounts, exported, rulebook_checked, rules};
pub(crate) use summary::lines;
pub(crate) use survey::{survey, surveys};
