//! Pages that can be sent around: nothing in them comes from elsewhere, and no script is needed to read them.
//!
//! A page is plain data, put together from the same parts whatever it is about; one template writes them all.

mod clean;
mod drawing;
mod examples;
mod html;
mod job;
mod links;
mod parts;
mod survey;

pub(crate) use clean::clean;
pub(crate) use examples::{Examples, MOST_RECORDS};
pub(crate) use html::html;
pub(crate) use job::job;
pub(crate) use links::links;
pub(crate) use parts::{Page, Part};
pub(crate) use survey::{figures_of_survey, survey};
