//! One address, judged: findings, standard form, key, suggestion. Nothing here looks for addresses in a text.

pub(crate) mod ahead;
pub(crate) mod alike;
pub(crate) mod domain;
pub(crate) mod domain_cache;
pub(crate) mod examine;
pub(crate) mod examined;
pub(crate) mod facts;
pub(crate) mod grammar;
pub(crate) mod judged;
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
pub(crate) mod slips;
pub(crate) mod standard_form;
pub(crate) mod suggest;
pub(crate) mod tld_typos;
pub(crate) mod well_formed;
