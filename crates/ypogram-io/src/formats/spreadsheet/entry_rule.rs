//! The rule on columns of addresses: what a formula of 255 characters can say of an address while it is typed.

use rust_xlsxwriter::{DataValidation, DataValidationErrorStyle, Formula, XlsxError, utility};

use crate::formats::book::EntryRule;

/// The rule on a column whose first cell stands in the second row.
///
/// # Errors
/// Where title or message is too long.
pub(super) fn validation(rule: &EntryRule, column: u16) -> Result<DataValidation, XlsxError> {
    let cell = utility::row_col_to_cell(1, column);
    DataValidation::new()
        .allow_custom(Formula::new(formula(&cell)))
        .ignore_blank(true)
        .set_error_style(DataValidationErrorStyle::Stop)
        .set_error_title(&rule.title)?
        .set_error_message(&rule.message)
}

/// True where the text of `cell` may be an address: one @ with up to 64 characters before it, a dot in the domain, no space, and no dot at
/// an end or beside another.
fn formula(cell: &str) -> String {
    let has = |text: &str| format!("COUNTIF({cell},\"{text}\")");
    let none = ["* *", "*..*", ".*", "*.@*", "*@.*", "*.", "*@*@*"].map(has).join("+");
    format!("=AND(LEN({cell})<255,FIND(\"@\",{cell}&\"@\")<66,{}=1,{none}=0)", has("?*@?*.?*"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_fits_into_a_rule_of_a_sheet() {
        // In the last column of a sheet.
        assert!(formula("XFD2").len() <= 255, "{}", formula("XFD2").len());
    }
}
