//! Is a speed-test address good enough to judge a line by?

use super::Finding;
use serde::{Deserialize, Serialize};

/// What a short look at an address brought.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct AddressProbe {
    /// Its address.
    pub url: String,
    /// Length of the body, bytes; `None` where it goes on for long.
    pub body_bytes: Option<u64>,
    /// Download, Mbit/s.
    pub download_mbps: Option<f64>,
    /// Upload, Mbit/s.
    pub upload_mbps: Option<f64>,
    /// True where an upload was tried.
    pub upload_asked: bool,
    /// Latency, ms.
    pub latency_ms: Option<f64>,
    /// What went wrong.
    pub problem: Option<String>,
}

/// A body should last at least this long at the rate found, or starting requests takes more time than moving bytes,
/// s (common practice, no source).
const BODY_LASTS_S: f64 = 3.0;
/// A second address this much faster unmasks the first as the bottleneck (common practice, no source).
const UNMASKED_TIMES: f64 = 1.5;

/// What is wrong with an address, or that it is fine. `second`: a look at another one right after.
pub fn judge_address(first: &AddressProbe, second: Option<&AddressProbe>) -> Vec<Finding> {
    let mut findings = Vec::new();
    if let (None, Some(problem)) = (first.download_mbps, &first.problem) {
        return vec![Finding::AddressSilent { problem: problem.clone() }];
    }
    if let (Some(bytes), Some(mbps)) = (first.body_bytes, first.download_mbps) {
        let wanted_bytes = mbps * 1e6 / 8.0 * BODY_LASTS_S;
        if (bytes as f64) < wanted_bytes {
            findings.push(Finding::BodyTooSmall { bytes, wanted_bytes: wanted_bytes as u64 });
        }
    }
    if first.upload_asked && first.upload_mbps.is_none() {
        findings.push(Finding::NoUpload);
    }
    match (first.download_mbps, second.map(|second| (second, second.download_mbps))) {
        (Some(here), Some((_, Some(there)))) if here > 0.0 => {
            let ratio = there / here;
            if ratio >= UNMASKED_TIMES {
                findings.push(Finding::SecondFaster { ratio });
            } else {
                findings.push(Finding::SecondAgrees { ratio });
            }
        }
        (_, Some((second, None))) => {
            let problem = second.problem.clone().unwrap_or_else(|| "nothing came".into());
            findings.push(Finding::SecondSilent { problem });
        }
        _ => {}
    }
    // What is wrong with the second address is not the first one's fault.
    let of_the_first =
        |finding: &Finding| !matches!(finding, Finding::SecondAgrees { .. } | Finding::SecondSilent { .. });
    let faulty = findings.iter().any(of_the_first);
    if let (false, Some(download_mbps)) = (faulty, first.download_mbps) {
        findings.insert(0, Finding::AddressFine { download_mbps, upload_mbps: first.upload_mbps });
    }
    findings
}
