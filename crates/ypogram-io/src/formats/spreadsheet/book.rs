//! A workbook (XLSX) while it is written, sheet by sheet and row by row in a little memory.

use std::io::{self, Write};

use rust_xlsxwriter::{
    ConditionalFormatText, ConditionalFormatTextRule, DocProperties, ExcelDateTime, Format, FormatAlign,
    Workbook, Worksheet, XlsxError,
};

use crate::formats::book::{BookSummary, EntryRefusal};
use crate::formats::spreadsheet::{entry_rule, summary};
use crate::records::error::{Error, Result};
use crate::records::packed::PackedRows;
use crate::records::value::{DAY, Value};
use crate::rows::Projection;

/// The name of the sheet with the summary.
const SUMMARY: &str = "summary";

/// Rows of a sheet at most, that of its header included.
const MOST_ROWS: u32 = 1_048_576;
/// Columns of a sheet at most.
const MOST_COLUMNS: usize = 16_384;
/// Characters of a cell at most, in units of UTF-16.
const MOST_CHARACTERS: usize = 32_767;
/// The column that is widest, in characters.
const WIDEST: usize = 60;
/// Rows by which the widths of columns are fitted.
const FITTED_ROWS: u32 = 1000;

/// The days from the first that sheets know to 1 January 1970.
const DAYS_BEFORE_1970: i64 = 25_569;
/// The serial number of 1 March 1900; those before are wrong by a day in some programs.
const FIRST_DAY: i64 = 61;

/// What a sheet has besides its rows.
#[derive(Clone, Debug, Default)]
pub(crate) struct SheetPlan {
    pub(crate) name: String,
    pub(crate) columns: Vec<String>,
    /// The column of verdicts, which are coloured.
    pub(crate) verdicts: Option<usize>,
    /// The column of addresses in standard form.
    pub(crate) addresses: Option<usize>,
    /// What is refused in columns of addresses while it is typed.
    pub(crate) rule: Option<EntryRefusal>,
}

impl SheetPlan {
    /// For rows with those columns.
    pub(crate) fn of(name: &str, projection: &Projection) -> Self {
        SheetPlan {
            name: name.to_owned(),
            columns: projection.names().map(str::to_owned).collect(),
            verdicts: projection.added_column("verdict"),
            addresses: projection.added_column("address"),
            rule: None,
        }
    }
}

/// A workbook while it is written.
pub(crate) struct Book {
    workbook: Workbook,
    sheets: Vec<SheetState>,
    looks: Looks,
}

struct SheetState {
    plan: SheetPlan,
    /// The next row.
    row: u32,
    widths: Vec<usize>,
}

/// How cells look.
struct Looks {
    header: Format,
    date: Format,
    date_time: Format,
    time: Format,
}

impl Book {
    /// An empty one.
    pub(crate) fn new() -> Self {
        let mut workbook = Workbook::new();
        // The same rows give the same bytes whenever they are written.
        let day = ExcelDateTime::from_ymd(2000, 1, 1).expect("that day exists");
        workbook.set_properties(&DocProperties::new().set_creation_datetime(&day));
        let format = |code: &str| Format::new().set_num_format(code);
        let looks = Looks {
            header: Format::new().set_bold().set_align(FormatAlign::Left),
            date: format("yyyy-mm-dd"),
            date_time: format("yyyy-mm-dd hh:mm:ss"),
            time: format("[hh]:mm:ss"),
        };
        Book { workbook, sheets: Vec::new(), looks }
    }

    /// Adds a sheet with its header; gives its number.
    ///
    /// # Errors
    /// Where it has too many columns, or the temporary folder cannot be used.
    pub(crate) fn add_sheet(&mut self, plan: SheetPlan) -> Result<usize> {
        if plan.columns.len() > MOST_COLUMNS {
            return Err(does_not_fit(format!("there are more than {MOST_COLUMNS} columns")));
        }
        let sheet = self.workbook.add_worksheet_with_constant_memory().map_err(|error| failed(&error))?;
        sheet.set_name(&plan.name).map_err(|error| failed(&error))?;
        for (column, name) in plan.columns.iter().enumerate() {
            write_text(sheet, (0, column as u16), name.as_bytes(), Some(&self.looks.header))?;
        }
        let widths = plan.columns.iter().map(|name| width(name.as_bytes()) + 2).collect();
        self.sheets.push(SheetState { plan, row: 1, widths });
        Ok(self.sheets.len() - 1)
    }

    /// Adds the sheet of the summary, which is to be [written](Self::write_summary).
    ///
    /// # Errors
    /// Never.
    pub(crate) fn add_summary(&mut self) -> Result<()> {
        self.workbook.add_worksheet().set_name(SUMMARY).map_err(|error| failed(&error))?;
        self.sheets.push(SheetState {
            plan: SheetPlan { name: SUMMARY.into(), ..SheetPlan::default() },
            row: 0,
            widths: Vec::new(),
        });
        Ok(())
    }

    /// Writes the summary.
    ///
    /// # Errors
    /// Where a text is too long for a cell.
    pub(crate) fn write_summary(&mut self, summary: &BookSummary) -> Result<()> {
        let sheet = self.workbook.worksheet_from_name(SUMMARY).map_err(|error| failed(&error))?;
        summary::write(sheet, summary).map_err(|error| failed(&error))
    }

    /// Puts the sheets into the order of `names`, behind the summary.
    pub(crate) fn put_in_order(&mut self, names: &[&str]) {
        let place = |name: &str| names.iter().position(|other| *other == name).map_or(0, |place| place + 1);
        self.workbook.worksheets_mut().sort_by_key(|sheet| place(&sheet.name()));
        self.sheets.sort_by_key(|state| place(&state.plan.name));
    }

    /// Adds packed rows to a sheet.
    ///
    /// # Errors
    /// Where they do not fit into a sheet, or the temporary folder cannot be used.
    pub(crate) fn rows(&mut self, sheet: usize, rows: &[u8]) -> Result<()> {
        let Book { workbook, sheets, looks } = self;
        let state = &mut sheets[sheet];
        let sheet = workbook.worksheet_from_index(sheet).map_err(|error| failed(&error))?;
        let mut rows = PackedRows::of(rows);
        let mut result = Ok(());
        loop {
            let (mut column, row) = (0, state.row);
            let mut write = |value: Value<'_>, text: &[u8]| {
                if result.is_ok() {
                    result = write_cell(sheet, (row, column), value, text, looks);
                }
                if row <= FITTED_ROWS && column < state.widths.len() {
                    state.widths[column] = state.widths[column].max(width(text));
                }
                column += 1;
            };
            if !rows.next_cells(&mut write) {
                return result;
            }
            result?;
            result = Ok(());
            state.row += 1;
            if state.row > MOST_ROWS {
                return Err(does_not_fit(format!("there are more than {} rows", MOST_ROWS - 1)));
            }
        }
    }

    /// Writes the whole workbook.
    ///
    /// # Errors
    /// Where it cannot be written.
    pub(crate) fn save(&mut self, out: impl Write + Send) -> Result<()> {
        for (nth, state) in self.sheets.iter().enumerate() {
            if state.plan.columns.is_empty() {
                continue;
            }
            let sheet = self.workbook.worksheet_from_index(nth).map_err(|error| failed(&error))?;
            finish_sheet(sheet, state).map_err(|error| failed(&error))?;
        }
        self.workbook.save_to_writer(out).map_err(|error| failed(&error))
    }
}

/// Freezes the header, puts a filter on it, fits the widths, and colours the verdicts.
fn finish_sheet(sheet: &mut Worksheet, state: &SheetState) -> std::result::Result<(), XlsxError> {
    let last_row = state.row.saturating_sub(1);
    sheet.set_freeze_panes(1, 0)?;
    if let Some(last_column) = state.widths.len().checked_sub(1) {
        sheet.autofilter(0, 0, last_row, last_column as u16)?;
    }
    for (column, &width) in state.widths.iter().enumerate() {
        sheet.set_column_width(column as u16, width.clamp(4, WIDEST) as f64 + 1.0)?;
    }
    if let Some(column) = state.plan.verdicts.filter(|_| last_row > 0) {
        for (verdict, colour) in [("accept", 0x00C6_E7D3), ("review", 0x00FC_E8B2), ("reject", 0x00F6_C9C5)] {
            let rule = ConditionalFormatText::new()
                .set_rule(ConditionalFormatTextRule::BeginsWith(verdict.into()))
                .set_format(Format::new().set_background_color(colour));
            sheet.add_conditional_format(1, column as u16, last_row, column as u16, &rule)?;
        }
    }
    if let Some(rule) = &state.plan.rule {
        let own = rule
            .columns
            .iter()
            .filter_map(|name| state.plan.columns.iter().position(|column| column == name));
        for column in own.chain(state.plan.addresses) {
            let refused = entry_rule::validation(rule, column as u16)?;
            // Over the empty rows below as well: that is where the next entry is typed.
            sheet.add_data_validation(1, column as u16, MOST_ROWS - 1, column as u16, &refused)?;
        }
    }
    Ok(())
}

/// Characters that a text is wide: those of its longest line.
fn width(text: &[u8]) -> usize {
    let lines = text.split(|&byte| byte == b'\n');
    lines.map(|line| line.iter().filter(|&&byte| byte & 0xC0 != 0x80).count()).max().unwrap_or_default()
}

fn write_cell(
    sheet: &mut Worksheet,
    (row, column): (u32, usize),
    value: Value<'_>,
    text: &[u8],
    looks: &Looks,
) -> Result<()> {
    if column >= MOST_COLUMNS {
        return Err(does_not_fit(format!("row {} has more than {MOST_COLUMNS} cells", row + 1)));
    }
    let place = (row, column as u16);
    let serial = |days: i64| Some(days + DAYS_BEFORE_1970).filter(|&serial| serial >= FIRST_DAY);
    let number = match value {
        Value::Missing | Value::Null if text.is_empty() => return Ok(()),
        Value::Bool(yes) => {
            return sheet.write_boolean(place.0, place.1, yes).map(drop).map_err(|error| failed(&error));
        }
        Value::Integer(number) if number.unsigned_abs() < 1 << 53 => Some((number as f64, None)),
        Value::Float(number) if number.is_finite() => Some((number, None)),
        Value::Date(days) => serial(i64::from(days)).map(|serial| (serial as f64, Some(&looks.date))),
        Value::DateTime(micros) => serial(micros.div_euclid(DAY)).map(|serial| {
            (serial as f64 + micros.rem_euclid(DAY) as f64 / DAY as f64, Some(&looks.date_time))
        }),
        Value::Time(micros) if micros >= 0 => Some((micros as f64 / DAY as f64, Some(&looks.time))),
        _ => None,
    };
    let Some((number, look)) = number else { return write_text(sheet, place, text, None) };
    let percent = text.strip_suffix(b"%").map(|digits| {
        let decimals = digits.iter().rev().take_while(|digit| digit.is_ascii_digit()).count();
        let decimals = if digits.contains(&b'.') { decimals } else { 0 };
        Format::new().set_num_format(match decimals {
            0 => "0%".to_owned(),
            decimals => format!("0.{}%", "0".repeat(decimals)),
        })
    });
    let written = match percent.as_ref().or(look) {
        Some(look) => sheet.write_number_with_format(place.0, place.1, number, look),
        None => sheet.write_number(place.0, place.1, number),
    };
    written.map(drop).map_err(|error| failed(&error))
}

/// Writes a text as text, whatever it looks like.
fn write_text(
    sheet: &mut Worksheet,
    (row, column): (u32, u16),
    text: &[u8],
    look: Option<&Format>,
) -> Result<()> {
    if text.is_empty() {
        return Ok(());
    }
    let text = String::from_utf8_lossy(text);
    if text.len() > MOST_CHARACTERS && text.encode_utf16().count() > MOST_CHARACTERS {
        return Err(does_not_fit(format!(
            "the cell in row {}, column {} has more than {MOST_CHARACTERS} characters",
            row + 1,
            column + 1
        )));
    }
    let written = match look {
        Some(look) => sheet.write_string_with_format(row, column, text, look),
        None => sheet.write_string(row, column, text),
    };
    written.map(drop).map_err(|error| failed(&error))
}

/// The error of rows that a sheet cannot hold.
fn does_not_fit(what: String) -> Error {
    Error::output(
        format!("a sheet of a workbook cannot hold this: {what}"),
        "write CSV or JSON lines, or sort the records into a folder with clean -o FOLDER",
    )
}

fn failed(error: &XlsxError) -> Error {
    match error {
        XlsxError::IoError(error) => Error::temporary(&std::env::temp_dir(), error),
        XlsxError::ZipError(error) => {
            Error::temporary(&std::env::temp_dir(), &io::Error::other(error.to_string()))
        }
        error => does_not_fit(error.to_string()),
    }
}
