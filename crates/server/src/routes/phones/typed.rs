//! What was typed on a phone, kept there as it was typed, and read here.

use busy_hen_home::{Fault, Faults, Home, LengthUnit, Outcome, Run};
use busy_hen_units::typed::Quantity;
use busy_hen_units::{Dbm, MbitPerSec, Metres, Millis};

use super::sent::{Far, Figure, PhoneResult, PhoneRun};
use crate::error::{ApiError, Asked};
use crate::routes::numbers::{NotRead, length_of, number_of, style_of};

/// The figures of a run, read.
#[derive(Debug, Default)]
pub(super) struct Figures {
    /// What another test showed.
    pub shown: Option<Outcome>,
    signal: Option<Dbm>,
    link_rate: Option<MbitPerSec>,
    far: Option<Metres>,
}

impl Figures {
    /// Reads all that was typed of a run, in the style of the home.
    ///
    /// # Errors
    /// What is asked of figures that may mean two, or why some mean none; the run is not taken until that is put right.
    pub fn of(new: &PhoneRun, home: &Home) -> Result<Self, ApiError> {
        let style = style_of(home);
        let mut not = NotYet::default();
        let details = &new.details;
        let mut figure = |own: Option<&Figure>, of: Quantity, pointer: &str| match own? {
            Figure::Number(value) => Some(*value),
            Figure::Typed(text) if text.trim().is_empty() => None,
            Figure::Typed(text) => not.take(number_of(text, of, style, pointer), pointer),
        };
        let signal = figure(details.signal_dbm.as_ref(), Quantity::Signal, "/details/signal_dbm").map(Dbm::new);
        let link_rate =
            figure(details.link_rate_mbps.as_ref(), Quantity::Speed, "/details/link_rate_mbps").map(MbitPerSec::new);
        let shown = match &new.result {
            PhoneResult::Shown { down_mbps, up_mbps, idle_ms, .. } => {
                let down = figure(Some(down_mbps), Quantity::Speed, "/result/down_mbps");
                let up = figure(Some(up_mbps), Quantity::Speed, "/result/up_mbps");
                let idle_ms = figure(idle_ms.as_ref(), Quantity::Delay, "/result/idle_ms").map(Millis::new);
                down.zip(up).map(|(down, up)| Outcome::Measured {
                    down_mbps: MbitPerSec::new(down),
                    up_mbps: MbitPerSec::new(up),
                    idle_ms,
                    loaded_ms: None,
                    jitter_ms: None,
                    loss_percent: None,
                })
            }
            _ => None,
        };
        let far = details.far.as_ref().and_then(|far| match far {
            Far::Measured { length } => not.length(length, home.units, "/details/far/length"),
            Far::Paced { paces, stride } => {
                let paces =
                    not.take(number_of(paces, Quantity::Count, style, "/details/far/paces"), "/details/far/paces");
                Some(paces? * not.length(stride, home.units, "/details/far/stride")?)
            }
        });
        let shown_is_whole = shown.is_some() || !matches!(new.result, PhoneResult::Shown { .. });
        not.refuse()?;
        if !shown_is_whole {
            return Err(Faults::one("/result", "Type download and upload as the other test shows them.").into());
        }
        Ok(Self { shown, signal, link_rate, far: far.map(Metres::new) })
    }

    /// The run with these figures.
    pub fn put_into(&self, run: Run) -> Run {
        let mark = run.mark.map(|mark| busy_hen_home::Mark { distance_m: self.far.or(mark.distance_m), ..mark });
        Run { signal_dbm: self.signal, link_rate_mbps: self.link_rate, mark, ..run }
    }
}

/// What has to be put right first.
#[derive(Default)]
struct NotYet {
    asked: Vec<Asked>,
    faults: Vec<Fault>,
}

impl NotYet {
    fn take(&mut self, read: Result<f64, NotRead>, pointer: &str) -> Option<f64> {
        match read {
            Ok(value) => return Some(value),
            Err(NotRead::Asked(asked)) => self.asked.push(asked),
            Err(NotRead::Problem(message)) => self.faults.push(Fault { pointer: pointer.into(), message }),
        }
        None
    }

    fn length(&mut self, text: &str, unit: LengthUnit, pointer: &str) -> Option<f64> {
        self.take(length_of(text, unit, pointer), pointer)
    }

    fn refuse(self) -> Result<(), ApiError> {
        Faults::check(self.faults).map_err(ApiError::Unreadable)?;
        if self.asked.is_empty() { Ok(()) } else { Err(ApiError::Unclear(self.asked)) }
    }
}
