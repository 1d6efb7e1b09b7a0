//! The rule as one regular expression.

use ypogram_core::entry_rule::{EntryRule, Extent, Flavour};

/// The expression, and the names of the conditions that it does not hold.
pub(super) fn write(rule: &EntryRule, flavour: Flavour) -> (String, Vec<String>) {
    let expression = rule.expression(flavour, Extent::Whole);
    (expression.text + "\n", expression.without)
}
