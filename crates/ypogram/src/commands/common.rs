//! What several commands do alike.

use std::path::PathBuf;

use ypogram_io::{Error, Result};
use ypogram_jobs::FieldPlan;

use crate::render;
use crate::trial::Rows;

/// An address where a source is expected: whoever typed it wants it explained.
pub(crate) fn refuse_addresses(sources: &[PathBuf]) -> Result<()> {
    match sources.iter().find(|path| path.to_string_lossy().contains('@') && !path.exists()) {
        Some(address) => {
            let address = address.display().to_string();
            let quoted = render::words::for_shell(&address);
            Err(Error::unusable(
                format!("‘{address}’ is not a file"),
                format!("to judge an address: ypogram explain {quoted}"),
            ))
        }
        None => Ok(()),
    }
}

/// Leaves the columns that were named, or without any the fields that were looked at and what was added.
pub(crate) fn leave_what_was_asked_for(rows: &mut Rows, plan: &FieldPlan, columns: &[String]) {
    if columns.is_empty() {
        let looked_at: Vec<&str> = plan.looked_at().collect();
        rows.leave(|name| looked_at.contains(&name), |name| plan.fields.iter().any(|field| field == name));
    }
}
