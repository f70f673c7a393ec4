//! What each kind of endpoint may answer besides success, for the description of the interface.

use std::collections::BTreeMap;

use utoipa::openapi::{ContentBuilder, Ref, RefOr, Response, ResponseBuilder};
use utoipa::{IntoResponses, PartialSchema, ToSchema};

use crate::error::Problem;

const ANY: [(u16, &str); 4] = [
    (401, "The bench is locked."),
    (403, "A page of another site asks, or the server is called by a name that is not its own."),
    (404, "Not there."),
    (500, "The program failed; nothing was changed."),
];
const QUERY: [(u16, &str); 2] = [
    (400, "An address or header that is not understood."),
    (422, "Something asked for can't be, each fault with its place."),
];
const BODY: [(u16, &str); 5] = [
    (400, "Something sent is not understood."),
    (408, "What was sent did not arrive in time."),
    (413, "Larger than is read."),
    (415, "Not JSON."),
    (422, "Something is not right, each fault with its place."),
];
const PICTURE: [(u16, &str); 5] = [
    (400, "An address, header or picture that did not come whole."),
    (408, "The picture did not arrive in time."),
    (413, "Larger than is read."),
    (415, "No picture that can be read."),
    (422, "Something is not right, each fault with its place."),
];
const STORED: [(u16, &str); 2] =
    [(409, "Does not fit what is there: the code says why."), (507, "No space left; nothing was stored.")];
const BASED: [(u16, &str); 2] = [
    (412, "Made on a state too old to be brought together with the newest."),
    (428, "Does not say what it is based on."),
];
const TOKEN: [(u16, &str); 2] = [
    (401, "The phone is not paired."),
    (
        403,
        "The time of the phone is over, a page of another site asks, or the server is called by a name that is not its own.",
    ),
];
const TRIES: (u16, &str) = (429, "Too many wrong tries.");
const BUSY: (u16, &str) = (503, "Too much is being computed already, or it was called off.");

fn responses<'a>(kinds: impl IntoIterator<Item = &'a (u16, &'static str)>) -> BTreeMap<String, RefOr<Response>> {
    let problem = Ref::from_schema_name(Problem::name());
    kinds
        .into_iter()
        .map(|(status, words)| {
            let content = ContentBuilder::new().schema(Some(problem.clone())).build();
            let response = ResponseBuilder::new().description(*words).content("application/problem+json", content);
            (status.to_string(), response.build().into())
        })
        .collect()
}

macro_rules! problems {
    ($(#[$doc:meta])* $name:ident, $kinds:expr) => {
        $(#[$doc])*
        pub struct $name;

        impl IntoResponses for $name {
            fn responses() -> BTreeMap<String, RefOr<Response>> {
                responses($kinds)
            }
        }
    };
}

problems!(
    /// Of endpoints that only read.
    Reading,
    ANY.iter().chain(&QUERY)
);
problems!(
    /// Of endpoints that compute from what is sent.
    Computing,
    ANY.iter().chain(&BODY).chain([&BUSY])
);
problems!(
    /// Of endpoints that compute from an address alone.
    Comparing,
    ANY.iter().chain(&QUERY).chain([&BUSY])
);
problems!(
    /// Of endpoints that store what is sent.
    Storing,
    ANY.iter().chain(&BODY).chain(&STORED)
);
problems!(
    /// Of endpoints that store a change which takes no body.
    Acting,
    ANY.iter().chain(&QUERY).chain(&STORED)
);
problems!(
    /// Of endpoints that let someone in.
    Opening,
    ANY.iter().chain(&BODY).chain(&STORED).chain([&TRIES, &BUSY])
);
problems!(
    /// Of endpoints for paired phones.
    Testing,
    ANY.iter().chain(&QUERY).chain(&TOKEN)
);
problems!(
    /// Of endpoints that take pictures.
    Picturing,
    ANY.iter().chain(&PICTURE).chain(&STORED).chain(&TOKEN).chain([&BUSY])
);
problems!(
    /// Of endpoints that change what they are told they are based on.
    Editing,
    ANY.iter().chain(&BODY).chain(&STORED).chain(&BASED)
);
problems!(
    /// Of endpoints that take away what they are told they are based on.
    Removing,
    ANY.iter().chain(&QUERY).chain(&STORED).chain(&BASED)
);

/// The schema of a problem, so that it stands in the description wherever it is referred to.
#[must_use]
pub fn schemas() -> Vec<(String, RefOr<utoipa::openapi::Schema>)> {
    let mut list = vec![(Problem::name().into_owned(), Problem::schema())];
    Problem::schemas(&mut list);
    list
}
