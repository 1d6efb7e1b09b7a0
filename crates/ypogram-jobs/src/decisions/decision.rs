//! What stands in a column of decisions.

use crate::decisions::{Answer, AnswerKind};

/// What somebody wrote about a record.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Decision {
    /// It is right as it is.
    Keep,
    /// What is suggested is right.
    Take,
    /// Nobody wants it.
    Drop,
    /// This is its address.
    Address(String),
}

impl Decision {
    /// Whether it is the one that was answered with.
    pub(crate) fn is_that_of(&self, answer: &Answer) -> bool {
        match (self, answer.kind) {
            (Decision::Keep, AnswerKind::Kept)
            | (Decision::Take, AnswerKind::Taken)
            | (Decision::Drop, AnswerKind::Dropped) => true,
            (Decision::Address(typed), AnswerKind::Typed) => answer.address.as_ref() == Some(typed),
            _ => false,
        }
    }

    /// The decision that a cell holds, letter case and white space around it aside; none where it is empty.
    ///
    /// # Errors
    /// Where it holds something else.
    ///
    /// ```
    /// use ypogram_jobs::decisions::Decision;
    /// assert_eq!(Decision::read(" Keep "), Ok(Some(Decision::Keep)));
    /// assert_eq!(Decision::read("ada@fernhollow.example"), Ok(Some(Decision::Address("ada@fernhollow.example".into()))));
    /// assert_eq!(Decision::read(""), Ok(None));
    /// assert!(Decision::read("yes").is_err());
    /// ```
    pub fn read(cell: &str) -> Result<Option<Self>, String> {
        let cell = cell.trim();
        Ok(Some(match cell {
            "" => return Ok(None),
            cell if cell.eq_ignore_ascii_case("keep") => Decision::Keep,
            cell if cell.eq_ignore_ascii_case("take") => Decision::Take,
            cell if cell.eq_ignore_ascii_case("drop") => Decision::Drop,
            _ if cell.contains('@') => Decision::Address(cell.to_owned()),
            _ => return Err(format!("‘{cell}’ is no decision")),
        }))
    }
}
