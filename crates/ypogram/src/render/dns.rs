//! What a summary tells of the answers of the domain name system.

use std::path::Path;

use jiff::{SignedDuration, Timestamp};
use ypogram_jobs::dns::{AnswerKind, Store};

use crate::render::words::{counted, number};

/// What there is to tell.
pub(crate) struct Told {
    parts: Vec<String>,
}

impl Told {
    /// Of answers that were taken from a file.
    pub(crate) fn of_snapshot(file: &Path, store: &Store) -> Self {
        let days = |time: Timestamp| time.strftime("%Y-%m-%d").to_string();
        let asked = || store.values().map(|answer| answer.asked);
        let when = match (asked().min(), asked().max()) {
            (Some(first), Some(last)) if days(first) == days(last) => format!(" of {}", days(first)),
            (Some(first), Some(last)) => format!(" of {} to {}", days(first), days(last)),
            _ => String::new(),
        };
        let answers = counted(store.len() as u64, "answer", "answers");
        Told { parts: vec![format!("{answers}{when} from {}", file.display())] }
    }

    /// Of domains that were asked about now, and of those whose answers were kept before.
    #[cfg_attr(not(feature = "dns"), allow(dead_code))]
    pub(crate) fn of_asked(asked: &Store, kept: &Store, now: Timestamp, no_network: bool) -> Self {
        let mut parts = vec![format!("{} asked about", counted(asked.len() as u64, "domain", "domains"))];
        if no_network {
            parts[0].push_str(", and no server answered");
        }
        if let Some(oldest) = kept.values().map(|answer| answer.asked).min() {
            let count = number(kept.len() as u64);
            parts.push(format!("{count} known from before, the oldest {}", age(now.duration_since(oldest))));
        }
        // What was not answered is never kept.
        let unanswered =
            asked.values().filter(|answer| answer.kind == AnswerKind::NotAnswered).count() as u64;
        if unanswered > 0 && !no_network {
            parts.push(format!("{} not answered", number(unanswered)));
        }
        Told { parts }
    }

    /// As a part of a line.
    pub(crate) fn line(&self) -> String {
        format!("DNS: {}", self.parts.join(", "))
    }
}

/// How long ago something was.
fn age(duration: SignedDuration) -> String {
    let counted =
        |count: i64, one: &str, many: &str| format!("{} old", counted(count.max(0) as u64, one, many));
    match duration.as_secs() {
        ..60 => "of just now".to_owned(),
        seconds @ 60..3600 => counted(seconds / 60, "minute", "minutes"),
        seconds @ 3600..172_800 => counted(seconds / 3600, "hour", "hours"),
        seconds => counted(seconds / 86_400, "day", "days"),
    }
}
