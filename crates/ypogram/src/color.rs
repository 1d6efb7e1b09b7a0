//! `--color`: whether what is shown has colours.

use std::ffi::OsString;

use clap::ValueEnum;

/// Whether what is shown has colours.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, ValueEnum)]
pub(crate) enum Color {
    /// On a terminal, unless NO_COLOR is set
    #[default]
    Auto,
    /// Always
    Always,
    /// Never
    Never,
}

impl Color {
    /// The value of the option among the words of a call, which may be wrong otherwise: help and errors are coloured by it too.
    pub(crate) fn requested(words: &[OsString]) -> Self {
        let mut words = words.iter().filter_map(|word| word.to_str()).take_while(|word| *word != "--");
        while let Some(word) = words.next() {
            let value = match word {
                "--color" => words.next(),
                word => word.strip_prefix("--color="),
            };
            if let Some(color) = value.and_then(|value| Color::from_str(value, false).ok()) {
                return color;
            }
        }
        Color::Auto
    }

    /// Makes all that is shown so.
    pub(crate) fn choose(self) {
        match self {
            Color::Auto => anstream::ColorChoice::Auto,
            Color::Always => anstream::ColorChoice::Always,
            Color::Never => anstream::ColorChoice::Never,
        }
        .write_global();
    }

    /// The same for help.
    pub(crate) fn of_help(self) -> clap::ColorChoice {
        match self {
            Color::Auto => clap::ColorChoice::Auto,
            Color::Always => clap::ColorChoice::Always,
            Color::Never => clap::ColorChoice::Never,
        }
    }
}
