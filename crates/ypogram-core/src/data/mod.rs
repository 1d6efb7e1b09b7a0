//! What is known of domains and words: tables made from the files under `data/`, and what a list teaches. No job asks for anything here.

pub(crate) mod edit_distance;
pub(crate) mod known_typos;
pub(crate) mod learned_typos;
pub mod local_words;
pub(crate) mod mark;
pub mod providers;
pub(crate) mod public_suffix;
pub mod reserved;
