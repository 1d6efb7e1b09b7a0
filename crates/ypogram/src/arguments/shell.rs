//! What `completions` and `man` take.

use std::path::PathBuf;

use clap::Args;

/// Print what makes a shell complete commands, options, fields, lists, findings and jobs
#[derive(Debug, Args)]
#[command(after_help = "\
Put its output where your shell reads it, as in:
  bash         ypogram completions bash > ~/.local/share/bash-completion/completions/ypogram
  zsh          ypogram completions zsh > ~/.zfunc/_ypogram     (a folder of your fpath)
  fish         ypogram completions fish > ~/.config/fish/completions/ypogram.fish
  powershell   ypogram completions powershell >> $PROFILE
  elvish       ypogram completions elvish >> ~/.config/elvish/rc.elv")]
pub(crate) struct CompletionsArguments {
    /// The shell
    #[arg(value_name = "SHELL", value_parser = ["bash", "zsh", "fish", "powershell", "elvish"])]
    pub(crate) shell: String,
}

/// Write man pages, one for each command
#[derive(Debug, Args)]
pub(crate) struct ManArguments {
    /// The folder, which is made where it is not there; `-` for all pages on standard output
    #[arg(short, long, value_name = "FOLDER")]
    pub(crate) output: PathBuf,

    /// Replace pages that exist
    #[arg(long)]
    pub(crate) force: bool,
}
