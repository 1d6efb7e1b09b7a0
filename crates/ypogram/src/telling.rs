//! What a command tells when it is done: its summary, the summary as JSON, one figure of it, or nothing.

use ypogram_io::Result;

use crate::arguments::OutputArguments;
use crate::render;
use crate::render::figure_names::Figures;
use crate::render::summary::Summary;

/// What there is to tell.
pub(crate) struct Telling<'t> {
    pub(crate) output: &'t OutputArguments,
    /// Standard output carries data, and the summary goes to standard error.
    pub(crate) beside: bool,
    /// A trial on so many records.
    pub(crate) first: Option<u64>,
}

impl Telling<'_> {
    /// Tells it.
    ///
    /// # Errors
    /// Where there is no figure of the name that was asked for, or standard output is closed.
    pub(crate) fn tell(
        &self,
        figures: impl FnOnce() -> Figures,
        json: impl FnOnce() -> String,
        summary: impl FnOnce() -> Summary,
    ) -> Result<()> {
        if let Some(name) = &self.output.figure {
            return render::print(&format!("{}\n", figures().get(name)?));
        }
        // Whoever asks for JSON gets it.
        if self.output.quiet && !self.output.json {
            return Ok(());
        }
        let text = match self.output.json {
            true => json(),
            false => {
                let Some(first) = self.first else { return self.print(&summary().text(self.output.full)) };
                summary().without_steps().text(self.output.full) + &render::trial::note(first)
            }
        };
        self.print(&text)
    }

    fn print(&self, text: &str) -> Result<()> {
        match self.beside {
            true => {
                render::print_beside(text);
                Ok(())
            }
            false => render::print(text),
        }
    }
}
