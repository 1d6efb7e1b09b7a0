//! The phrases of mail systems and of people, in lower case.

use std::sync::LazyLock;

use aho_corasick::{AhoCorasick, MatchKind};

/// What is wrong is at the sender's side; words of the mailbox that follow do not mean the recipient.
pub(super) static ABOUT_SENDER: LazyLock<AhoCorasick> = LazyLock::new(|| {
    together(&[
        "sender address",
        "sender domain",
        "sender verif",
        "sender rejected",
        "client host",
        "reverse hostname",
        "reverse dns",
        "helo command",
        "helo name",
        "relay access",
        "relay denied",
        "relaying",
        "to relay",
    ])
});

/// The mailbox is full.
pub(super) static FULL: LazyLock<AhoCorasick> = LazyLock::new(|| {
    together(&[
        "mailbox full",
        "mailbox is full",
        "inbox is full",
        "over quota",
        "overquota",
        "quota exceeded",
        "exceeded quota",
        "exceeded the quota",
        "exceeds quota",
        "exceeded storage",
        "storage quota",
        "out of storage",
        "insufficient storage",
        "insufficient system storage",
        "postfach voll",
        "postfach ist voll",
        "boîte pleine",
        "buzón lleno",
    ])
});

/// There is no such mailbox, or none any more.
pub(super) static GONE: LazyLock<AhoCorasick> = LazyLock::new(|| {
    together(&[
        "user unknown",
        "unknown user",
        "unknown recipient",
        "recipient unknown",
        "unknown address",
        "no such user",
        "no such mailbox",
        "no such recipient",
        "no such address",
        "no such person",
        "no mailbox here",
        "mailbox not found",
        "mailbox unavailable",
        "user not found",
        "recipient not found",
        "address not found",
        "does not exist",
        "doesn't exist",
        "doesn’t exist",
        "no longer exist",
        "couldn't be found",
        "could not be found",
        "wasn't found",
        "invalid recipient",
        "invalid mailbox",
        "unrouteable address",
        "account is disabled",
        "account has been disabled",
        "account disabled",
        "mailbox disabled",
        "mailbox is disabled",
        "inactive user",
        "account is inactive",
        "domain not found",
        "host not found",
        "domain name not found",
        "host unknown",
        "name or service not known",
        "nxdomain",
        "null mx",
        "nullmx",
        "no longer valid",
        "no longer in use",
        "no longer available",
        "not our customer",
        "does not accept mail",
        "unbekannter empfänger",
        "empfänger unbekannt",
        "destinataire inconnu",
        "destinatario desconocido",
    ])
});

/// The mail was not wanted, or not now; nothing is said of the mailbox.
pub(super) static POLICY: LazyLock<AhoCorasick> = LazyLock::new(|| {
    together(&[
        "spam",
        "blocked",
        "blocklist",
        "block list",
        "blacklist",
        "policy",
        "reputation",
        "spf",
        "dkim",
        "dmarc",
        "rate limit",
        "too many",
        "greylist",
        "graylist",
        "try again",
        "temporar",
        "too large",
        "size limit",
        "delayed",
        "not yet been delivered",
        "will retry",
        "virus",
        "access denied",
    ])
});

/// Subjects of what mail systems send back.
pub(super) static BOUNCE_SUBJECTS: LazyLock<AhoCorasick> = LazyLock::new(|| {
    together(&[
        "undeliver",
        "delivery status notification",
        "mail delivery fail",
        "delivery failure",
        "delivery has failed",
        "delivery failed",
        "returned mail",
        "failure notice",
        "returned to sender",
        "mail system error",
        "warning: message",
        "delayed mail",
        "message delayed",
        "delivery delayed",
        "unzustellbar",
        "nicht zustellbar",
        "échec de remise",
        "non remis",
        "no se ha podido entregar",
        "mancato recapito",
    ])
});

/// Subjects of automatic replies.
pub(super) static REPLY_SUBJECTS: LazyLock<AhoCorasick> = LazyLock::new(|| {
    together(&[
        "automatic reply",
        "auto reply",
        "autoreply",
        "auto-reply",
        "automatische antwort",
        "réponse automatique",
        "respuesta automática",
        "risposta automatica",
        "automatisch antwoord",
        "out of office",
        "out of the office",
        "away from",
        "on leave",
        "on holiday",
        "on vacation",
        "abwesenheit",
        "abwesend",
        "nicht im büro",
        "absence du bureau",
        "absent",
        "fuera de la oficina",
        "fuori sede",
        "afwezig",
    ])
});

/// An automatic reply that only says that the mail has come.
pub(super) static RECEIVED: LazyLock<AhoCorasick> = LazyLock::new(|| {
    together(&[
        "ticket",
        "case number",
        "your request has been received",
        "received your",
        "thank you for contacting",
        "thank you for your message",
        "confirm receipt",
        "eingangsbestätigung",
        "accusé de réception",
    ])
});

/// Whoever had the mailbox does not read it any more.
pub(super) static LEFT: LazyLock<AhoCorasick> = LazyLock::new(|| {
    together(&[
        "no longer work",
        "no longer with",
        "no longer employed",
        "no longer read",
        "has left",
        "have left",
        "no longer in use",
        "no longer used",
        "no longer monitored",
        "no longer active",
        "no longer valid",
        "is being closed",
        "has been closed",
        "nicht mehr bei",
        "nicht mehr im unternehmen",
        "nicht mehr aktiv",
        "nicht mehr verwendet",
        "nicht mehr gelesen",
        "ne travaille plus",
        "n'est plus utilisé",
        "ya no trabaj",
        "non lavora più",
        "werkt niet meer",
        "niet meer in gebruik",
    ])
});

/// The address to use from now on follows.
pub(super) static NEW_ADDRESS: LazyLock<AhoCorasick> = LazyLock::new(|| {
    together(&[
        "new address",
        "new e-mail",
        "new email",
        "new mail address",
        "address has changed",
        "address is now",
        "e-mail is now",
        "email is now",
        "changed to",
        "moved to",
        "please try",
        "now reach me at",
        "neue adresse",
        "neue e-mail",
        "neue mail",
        "nouvelle adresse",
        "nueva dirección",
        "nuovo indirizzo",
        "nieuw adres",
        "nieuwe e-mail",
    ])
});

/// Whoever writes wants to be left alone.
pub(super) static WISH: LazyLock<AhoCorasick> = LazyLock::new(|| {
    together(&[
        "unsubscribe",
        "remove me",
        "take me off",
        "remove my address",
        "delete my address",
        "stop sending",
        "stop mailing",
        "stop emailing",
        "no more emails",
        "no more mails",
        "leave me alone",
        "opt out",
        "opt-out",
        "abmelden",
        "abbestellen",
        "austragen",
        "keine weiteren mails",
        "désabonner",
        "désinscrire",
        "désinscription",
        "darme de baja",
        "dar de baja",
        "cancellami",
        "disiscriv",
        "uitschrijven",
        "afmelden",
    ])
});

/// Such a wish is not meant where this stands before it.
pub(super) static NOT_A_WISH: LazyLock<AhoCorasick> =
    LazyLock::new(|| together(&["do not", "don't", "how do i", "how to", "not want to", "never"]));

/// Phrases that are looked for in one pass.
fn together(phrases: &[&str]) -> AhoCorasick {
    AhoCorasick::builder().match_kind(MatchKind::LeftmostFirst).build(phrases).expect("there are few")
}

/// Whether one of the phrases stands in `text`, which is in lower case.
pub(super) fn any(phrases: &AhoCorasick, text: &str) -> bool {
    phrases.is_match(text)
}

/// Where the first of the phrases stands in `text`, which is in lower case: its start and its end.
pub(super) fn first(phrases: &AhoCorasick, text: &str) -> Option<(usize, usize)> {
    phrases.find(text).map(|found| (found.start(), found.end()))
}
