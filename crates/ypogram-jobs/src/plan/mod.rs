//! What a job is asked to do, settled against its sources: fields, columns, cuts, outputs. Nothing here looks at an address.

pub(crate) mod columns;
pub(crate) mod compose;
pub(crate) mod contact_trait;
pub(crate) mod cut;
pub(crate) mod date_order;
pub(crate) mod field_rules;
pub(crate) mod fields;
pub(crate) mod house;
pub(crate) mod house_pattern;
pub(crate) mod layout;
pub(crate) mod outcome;
pub(crate) mod person;
pub(crate) mod person_field_names;
pub(crate) mod read_columns;
pub(crate) mod same_fields;
mod sentence;
pub(crate) mod shared;
pub(crate) mod shown_record;
pub mod split;
