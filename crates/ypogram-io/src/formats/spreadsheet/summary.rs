//! The summary of a workbook: counts that add up, a chart of them, and what they are of.

use rust_xlsxwriter::{Chart, ChartDataLabel, ChartType, Format, Worksheet, XlsxError};

use crate::formats::book::BookSummary;

/// Writes it.
pub(super) fn write(sheet: &mut Worksheet, summary: &BookSummary) -> Result<(), XlsxError> {
    let (bold, number) = (Format::new().set_bold(), Format::new().set_num_format("#,##0"));
    let (share, sum) = (Format::new().set_num_format("0.0%"), summary.sum.1);
    let title = Format::new().set_bold().set_font_size(14);
    sheet.write_string_with_format(0, 0, &summary.title, &title)?;
    let (first, mut row) = (2, 2);
    for (name, count) in &summary.counts {
        sheet.write_string(row, 0, name)?;
        sheet.write_number_with_format(row, 1, *count as f64, &number)?;
        sheet.write_number_with_format(row, 2, *count as f64 / sum.max(1) as f64, &share)?;
        row += 1;
    }
    if row > first {
        sheet.write_string_with_format(row, 0, &summary.sum.0, &bold)?;
        sheet.write_number_with_format(row, 1, sum as f64, &number)?;
        let mut chart = Chart::new(ChartType::Bar);
        chart
            .add_series()
            .set_categories(("summary", first, 0, row - 1, 0))
            .set_values(("summary", first, 1, row - 1, 1))
            .set_data_label(ChartDataLabel::new().show_value())
            .set_gap(40);
        chart.title().set_hidden();
        chart.legend().set_hidden();
        // The first outcome stands at the top, as in the table.
        chart.y_axis().set_reverse();
        chart.x_axis().set_hidden(true).set_major_gridlines(false);
        sheet.insert_chart(1, 4, &chart)?;
    }
    row += if summary.counts.is_empty() { 0 } else { 2 };
    for (name, text) in &summary.facts {
        sheet.write_string(row, 0, name)?;
        sheet.write_string(row, 1, text)?;
        row += 1;
    }
    sheet.set_column_width(0, 24)?;
    sheet.set_column_width(1, 20)?;
    Ok(())
}
