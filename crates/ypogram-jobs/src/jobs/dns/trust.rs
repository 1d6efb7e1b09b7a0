//! Whether servers answer for the Internet: some know nothing of it, and some say that everything exists.

use futures_util::future::join_all;

use crate::jobs::dns::answer::AnswerKind;
use crate::jobs::dns::questions::Questions;

/// Domains of large providers, which all have mail hosts.
const PROVIDERS: [&str; 5] = ["gmail.com", "outlook.com", "yahoo.com", "icloud.com", "gmx.net"];

/// Whether servers are to be believed.
#[derive(Debug, PartialEq, Eq)]
pub(super) enum Trust {
    Good,
    /// None answered.
    NoNetwork,
    /// What they say cannot be.
    Lies(String),
}

/// Asks about five domains that take mail and one that cannot exist.
pub(super) async fn of(questions: &Questions) -> Trust {
    let impossible = impossible();
    let all = PROVIDERS.into_iter().chain([&*impossible]);
    let answers = join_all(all.map(|domain| async move {
        let answer = tokio::time::timeout(questions.wait_for_domain(), questions.mail_hosts(domain)).await;
        answer.unwrap_or(AnswerKind::NotAnswered)
    }));
    let mut answers = answers.await;
    let made_up = answers.pop().unwrap_or(AnswerKind::NotAnswered);
    if answers.iter().chain([&made_up]).all(|answer| *answer == AnswerKind::NotAnswered) {
        return Trust::NoNetwork;
    }
    let takes_mail = |answer: &AnswerKind| matches!(answer, AnswerKind::MailHost | AnswerKind::NotAnswered);
    if let Some((provider, answer)) = PROVIDERS.iter().zip(&answers).find(|(_, answer)| !takes_mail(answer)) {
        return Trust::Lies(format!("{provider} takes mail, and it says {}", answer.word()));
    }
    match made_up {
        AnswerKind::NoSuchDomain | AnswerKind::NotAnswered => Trust::Good,
        _ => Trust::Lies(format!("{impossible} cannot exist, and it says that it does")),
    }
}

/// A name that nobody has registered: 32 random letters.
fn impossible() -> String {
    let mut bytes = [0_u8; 32];
    // Without chance it is a name that nobody has registered either.
    let _ = getrandom::fill(&mut bytes);
    let letters: String = bytes.iter().map(|byte| char::from(b'a' + byte % 26)).collect();
    format!("{letters}.com")
}
