//! One address, judged: findings, standard form, key, suggestion. Nothing here looks for addresses in a text.

pub(crate) mod cell_batch;
pub(crate) mod domain;
pub(crate) mod domain_cache;
pub(crate) mod examination;
pub(crate) mod examine;
pub(crate) mod facts;
pub(crate) mod grammar;
pub(crate) mod key;
pub(crate) mod list_matches;
pub(crate) mod local_traits;
pub(crate) mod meaning;
pub(crate) mod no_address;
pub(crate) mod own_names;
pub(crate) mod parts;
pub(crate) mod quick;
pub(crate) mod scan;
pub(crate) mod simple_wrapping;
pub(crate) mod standard_form;
pub(crate) mod suggest;
pub(crate) mod summary;
pub(crate) mod summary_key;
pub(crate) mod tld_typos;
pub(crate) mod typos;
pub(crate) mod well_formed;
