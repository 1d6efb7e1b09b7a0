//! How a job wants addresses to be judged: severities, names it trusts, its lists and patterns. Nothing here judges one.

pub(crate) mod dns_answers;
pub(crate) mod job_policy;
pub mod lists;
pub(crate) mod mailbox_domains;
pub(crate) mod pattern;
pub(crate) mod pattern_description;
pub(crate) mod pattern_miss;
pub mod ready_patterns;
pub(crate) mod words;
