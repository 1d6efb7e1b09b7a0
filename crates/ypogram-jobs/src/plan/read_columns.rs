//! The columns in which a job looks for addresses, as summaries name them.

use serde::{Deserialize, Serialize};

use crate::plan::fields::FieldPlan;

/// The columns in which a job looks for addresses.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct ReadColumns {
    /// The address fields, the preferred one first.
    pub address: Vec<String>,
    /// The text fields, likewise.
    pub text: Vec<String>,
    /// The fields that name a person, where these distinguish records.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub person: Vec<String>,
}

impl ReadColumns {
    /// Those of `plan`.
    pub fn of(plan: &FieldPlan) -> Self {
        let names = |names: Vec<&str>| names.into_iter().map(str::to_owned).collect();
        ReadColumns {
            address: names(plan.address_names()),
            text: names(plan.text_names()),
            person: Vec::new(),
        }
    }
}
