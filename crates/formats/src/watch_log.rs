//! The log of a long watch: JSON Lines, the first of which says how the watch is set up.

use busy_hen_home::{Fault, Faults, WATCH_LOG_LIMIT, WatchLine, WatchLog};

/// A line as it stands in a log, with its line break.
///
/// # Errors
/// When a number is not finite; none that a watch writes is.
pub fn watch_log_line(line: &WatchLine) -> Result<String, serde_json::Error> {
    Ok(serde_json::to_string(line)? + "\n")
}

/// Reads and checks a log. A last line without its line break was being written when the power went, and is left out.
///
/// # Errors
/// What is wrong, with the line it is on.
pub fn read_watch_log(text: &[u8]) -> Result<WatchLog, Faults> {
    if text.len() > WATCH_LOG_LIMIT {
        let megabytes = WATCH_LOG_LIMIT >> 20;
        return Err(Faults::one(
            "",
            format!("The file is larger than {megabytes} MB; it can't be the log of a watch."),
        ));
    }
    let whole = text.iter().rposition(|byte| *byte == b'\n').map_or(&text[..0], |end| &text[..end]);
    let mut lines = whole.split(|byte| *byte == b'\n').enumerate();
    let told = "This is no log of a watch: its first line says how the watch is set up, as `busy-hen watch` writes it.";
    let head = match lines.next().map(|(_, line)| serde_json::from_slice(line)) {
        Some(Ok(WatchLine::Watch(head))) => head,
        Some(Err(error)) => return Err(Faults::one("/0", format!("{told} ({error})"))),
        _ => return Err(Faults::one("/0", told)),
    };
    let mut log = WatchLog::new(head);
    let mut faults = Vec::new();
    for (number, line) in lines.filter(|(_, line)| !line.trim_ascii().is_empty()) {
        match serde_json::from_slice(line) {
            Ok(line) => log.take(line),
            Err(error) => faults.push(Fault {
                pointer: format!("/{number}"),
                message: format!("Line {} is not as `busy-hen watch` writes it: {error}.", number + 1),
            }),
        }
    }
    faults.truncate(20);
    Faults::check(faults)?;
    // A clock that was set back meanwhile leaves stretches in another order than that of time.
    log.stretches.sort_by_key(|own| own.from);
    log.check()?;
    Ok(log)
}
