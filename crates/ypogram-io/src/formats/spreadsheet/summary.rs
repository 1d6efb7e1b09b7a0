//! The summary of a workbook: counts that add up, a chart of them, and what they are of.

use rust_xlsxwriter::{Chart, ChartType, Format, Worksheet, XlsxError};

use crate::formats::book::BookSummary;

/// Writes it.
pub(super) fn write(sheet: &mut Worksheet, summary: &BookSummary) -> Result<(), XlsxError> {
    let (bold, number) = (Format::new().set_bold(), Format::new().set_num_format("#,##0"));
    let title = Format::new().set_bold().set_font_size(14);
    sheet.write_string_with_format(0, 0, &summary.title, &title)?;
    let (first, mut row) = (2, 2);
    for (name, count) in &summary.counts {
        sheet.write_string(row, 0, name)?;
        sheet.write_number_with_format(row, 1, *count as f64, &number)?;
        row += 1;
    }
    let (name, sum) = &summary.sum;
    sheet.write_string_with_format(row, 0, name, &bold)?;
    sheet.write_number_with_format(row, 1, *sum as f64, &number)?;
    if row > first {
        let mut chart = Chart::new(ChartType::Bar);
        let series = chart.add_series();
        series.set_categories(("summary", first, 0, row - 1, 0)).set_values((
            "summary",
            first,
            1,
            row - 1,
            1,
        ));
        chart.title().set_name("Where the records ended");
        chart.legend().set_hidden();
        chart.y_axis().set_reverse();
        sheet.insert_chart(1, 4, &chart)?;
    }
    row += 2;
    for (name, text) in &summary.facts {
        sheet.write_string(row, 0, name)?;
        sheet.write_string(row, 1, text)?;
        row += 1;
    }
    sheet.set_column_width(0, 24)?;
    sheet.set_column_width(1, 20)?;
    Ok(())
}
