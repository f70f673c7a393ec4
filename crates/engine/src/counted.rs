//! Numbers of things, in words, and words as sentences begin.

/// "1 port", "3 ports".
pub(crate) fn counted(count: usize, thing: &str) -> String {
    format!("{count} {thing}{}", if count == 1 { "" } else { "s" })
}

/// The same with its first letter as a capital.
pub(crate) fn capitalised(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}
