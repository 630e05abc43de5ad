//! Integer codes of the standard's modem commands: 3GPP TS 27.007 clauses 8.5 (`+CSQ`) and 8.69 (`+CESQ`).
//!
//! A code stands for an interval. One rule for what is shown: the middle of the interval; of the open ones at both
//! ends, the edge. 99 and 255 mean "not known".

use super::Metric;
use crate::model::Technology;
use serde::{Deserialize, Serialize};

/// A decoded integer code. At least one edge is known.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CodeInterval {
    /// Lower edge, included; `None` for the lowest code.
    pub low: Option<f64>,
    /// Upper edge, not included; `None` for the highest code.
    pub high: Option<f64>,
}

impl CodeInterval {
    /// The value to show: the middle, or the one known edge.
    pub fn shown(self) -> f64 {
        match (self.low, self.high) {
            (Some(low), Some(high)) => f64::midpoint(low, high),
            (Some(edge), None) | (None, Some(edge)) => edge,
            (None, None) => f64::NAN,
        }
    }
}

/// Which value a code stands for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum CodeKind {
    /// `+CSQ` and `+CESQ` field 1 of GERAN are not the same; this is `+CSQ`'s, RSSI in 2 dB steps, dBm.
    CsqRssi,
    /// `+CESQ` field 5: LTE RSRQ, dB.
    Rsrq,
    /// `+CESQ` field 6: LTE RSRP, dBm.
    Rsrp,
    /// `+CESQ` field 7: SS-RSRQ, dB.
    SsRsrq,
    /// `+CESQ` field 8: SS-RSRP, dBm.
    SsRsrp,
    /// `+CESQ` field 9: SS-SINR, dB.
    SsSinr,
}

struct Scale {
    /// Lower edge of code 1.
    first: f64,
    step: f64,
    /// Highest code, open upwards.
    last: u16,
    unknown: u16,
}

impl CodeKind {
    fn scale(self) -> Scale {
        let (first, step, last, unknown) = match self {
            Self::CsqRssi => (-112.0, 2.0, 31, 99),
            // TS 36.133 table 9.1.7-1: 0 below −19.5, 34 from −3.
            Self::Rsrq => (-19.5, 0.5, 34, 255),
            // TS 36.133 table 9.1.4-1: 0 below −140, 97 from −44.
            Self::Rsrp => (-140.0, 1.0, 97, 255),
            // TS 38.133 table 10.1.11.1-1: 0 below −43, 127 from 20.
            Self::SsRsrq => (-43.0, 0.5, 127, 255),
            // TS 38.133 table 10.1.6.1-1: 0 below −156, 126 from −31.
            Self::SsRsrp => (-156.0, 1.0, 126, 255),
            // TS 38.133 table 10.1.16.1-1: 0 below −23, 127 from 40.
            Self::SsSinr => (-23.0, 0.5, 127, 255),
        };
        Scale { first, step, last, unknown }
    }

    /// The metric a code of this kind gives.
    pub fn metric(self) -> (Technology, Metric) {
        match self {
            Self::CsqRssi => (Technology::Lte, Metric::Rssi),
            Self::Rsrq => (Technology::Lte, Metric::Rsrq),
            Self::Rsrp => (Technology::Lte, Metric::Rsrp),
            Self::SsRsrq => (Technology::Nr, Metric::Rsrq),
            Self::SsRsrp => (Technology::Nr, Metric::Rsrp),
            Self::SsSinr => (Technology::Nr, Metric::Sinr),
        }
    }
}

/// Why a number is no code of its kind.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("codes of this kind run from 0 to {last}, and {unknown} for not known")]
pub struct CodeError {
    /// Largest code.
    pub last: u16,
    /// Code for "not known".
    pub unknown: u16,
}

/// What a code stands for; `None` where it says "not known".
///
/// # Errors
/// [`CodeError`] for a number that is no code of this kind.
pub fn decode(kind: CodeKind, code: u16) -> Result<Option<CodeInterval>, CodeError> {
    let Scale { first, step, last, unknown } = kind.scale();
    if code == unknown {
        return Ok(None);
    }
    if code > last {
        return Err(CodeError { last, unknown });
    }
    // +CSQ names single values instead of intervals: 0 is −113 dBm or less, 1 is −111, 31 is −51 or more.
    if kind == CodeKind::CsqRssi {
        let value = -113.0 + 2.0 * f64::from(code);
        return Ok(Some(match code {
            0 => CodeInterval { low: None, high: Some(value) },
            31 => CodeInterval { low: Some(value), high: None },
            _ => CodeInterval { low: Some(value - 1.0), high: Some(value + 1.0) },
        }));
    }
    let low = first + step * (f64::from(code) - 1.0);
    Ok(Some(CodeInterval {
        low: (code > 0).then_some(low),
        high: (code < last).then_some(if code == 0 { first } else { low + step }),
    }))
}
