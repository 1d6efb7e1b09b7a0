//! The rule on columns of addresses: what a formula of 255 characters can say of an address while it is typed.

use rust_xlsxwriter::{DataValidation, DataValidationErrorStyle, Formula, XlsxError, utility};

use crate::formats::book::{EntryRefusal, entry_formula};

/// The rule on a column whose first cell stands in the second row.
///
/// # Errors
/// Where title or message is too long.
pub(super) fn validation(rule: &EntryRefusal, column: u16) -> Result<DataValidation, XlsxError> {
    let cell = utility::row_col_to_cell(1, column);
    DataValidation::new()
        .allow_custom(Formula::new(entry_formula(&cell, rule.longest)))
        .ignore_blank(true)
        .set_error_style(DataValidationErrorStyle::Stop)
        .set_error_title(&rule.title)?
        .set_error_message(&rule.message)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_fits_into_a_rule_of_a_sheet() {
        // In the last column of a sheet.
        assert!(entry_formula("XFD2", 254).len() <= 255, "{}", entry_formula("XFD2", 254).len());
    }
}
