//! The local part before an @ in a text.

/// A local part as far as it reaches back.
pub(super) struct Local {
    pub(super) start: usize,
    pub(super) double_dot: bool,
    /// The classes of its characters; none for a quoted one.
    pub(super) seen: u16,
    /// Where that starts which they were seen in: what is glued in front was cut off.
    pub(super) run: usize,
    /// Where it starts instead, where the domain is ASCII: behind a word of a script that has no part in it.
    pub(super) behind_script: Option<usize>,
    /// A program fills it in.
    pub(super) template: bool,
}
