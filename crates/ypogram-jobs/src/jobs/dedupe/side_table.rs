//! Tables with columns of their own that are written beside the records.

use ypogram_tables::csv::{Arranged, Arrangement, CsvEncoder};
use ypogram_tables::{Output, Result, Target};

/// Opens one with its header; of how records are arranged it takes over the guard against formulas.
///
/// # Errors
/// Where the file exists or cannot be made.
pub(crate) fn open<'n>(
    target: &Target,
    names: impl IntoIterator<Item = &'n str>,
    arrangement: &Arrangement,
) -> Result<Output> {
    let names: Vec<&str> = names.into_iter().collect();
    let mut output = target.open()?;
    let mut header = Vec::new();
    CsvEncoder::copying(0, b',', b"\n").row(names.iter().copied(), &mut header);
    output.write(&header)?;
    if arrangement.guard_formulas {
        let names: Vec<String> = names.into_iter().map(str::to_owned).collect();
        output.arrange(Some(Arranged::new(&arrangement.guard_alone(), &names, b',', b"\n")?));
    }
    Ok(output)
}
