//! Where the findings of a check go.

use std::borrow::Cow;

use crate::model::codes::{Code, CodeSet};
use crate::model::finding::Finding;
use crate::model::span::Span;

/// Receives findings. A `Vec<Finding>` keeps place and sentence; a [`CodeSet`] keeps only the code, and the sentence is never
/// put together. So each rule stands once, whether its findings are shown or counted.
pub(crate) trait FindingSink {
    /// Takes a finding with a sentence of its own.
    fn report(&mut self, code: Code, span: impl Into<Span>, message: impl FnOnce() -> Cow<'static, str>);

    /// Takes a finding with the sentence of the table.
    fn report_plain(&mut self, code: Code, span: impl Into<Span>) {
        self.report(code, span, || code.info().sentence.into());
    }
}

impl FindingSink for Vec<Finding> {
    fn report(&mut self, code: Code, span: impl Into<Span>, message: impl FnOnce() -> Cow<'static, str>) {
        self.push(Finding::told(code, span, message()));
    }
}

impl FindingSink for CodeSet {
    fn report(&mut self, code: Code, _: impl Into<Span>, _: impl FnOnce() -> Cow<'static, str>) {
        self.insert(code);
    }
}
