//! Digests of runs put together say what their samples together say.

use crate::samples::*;
use chrono::Duration;
use open_beacon_core::judge::{Finding, RadioDigest, RadioFold, RadioSummary, summarise_samples};
use open_beacon_core::model::*;
use open_beacon_core::stats::{Counted, median, quantile, summarise};
use proptest::prelude::*;

fn heard() -> impl Strategy<Value = (u8, u8, u16, i32, i32, bool)> {
    (0..4_u8, 0..3_u8, 1..4_u16, -120..-60, -10..30, any::<bool>())
}

/// Samples of some runs, one after the other, with gaps, flapping cells and NR that comes and goes.
fn record() -> impl Strategy<Value = Vec<Vec<Sample>>> {
    let of_run = prop::collection::vec(heard(), 0..12);
    prop::collection::vec(of_run, 0..6).prop_map(|runs| {
        let mut n = 0;
        let mut sample =
            |run: usize, (activity, carriers, pci, rsrp, sinr, with_nr): (u8, u8, u16, i32, i32, bool)| {
                n += 1;
                let kinds = [Activity::Idle, Activity::Trickle, Activity::Loaded, Activity::Unknown];
                let (rsrp, sinr) = (f64::from(rsrp) / 2.0 - 50.0, f64::from(sinr));
                let mut all: Vec<Carrier> = (0..carriers)
                    .map(|k| lte(3 + 4 * u16::from(k), pci + u16::from(k), rsrp, sinr))
                    .collect();
                if with_nr {
                    all.push(nr(78, 600 + pci, rsrp - 3.0, sinr));
                }
                if let Some(first) = all.first_mut() {
                    first.sinr_db = (n % 5 > 0).then_some(sinr);
                    first.timing_advance = (n % 3 == 0).then_some(pci);
                }
                Sample {
                    run_id: RunId(id(1000 + run as u128)),
                    taken_at: morning() + Duration::seconds(n as i64),
                    ..crate::samples::sample(n, 1, kinds[usize::from(activity)], all)
                }
            };
        let runs = runs.into_iter().enumerate();
        runs.map(|(run, all)| all.into_iter().map(|one| sample(run, one)).collect()).collect()
    })
}

proptest! {
    /// Run by run and put together, packed in between, or all at once: one answer.
    #[test]
    fn parts_together_are_the_whole(runs in record()) {
        let all: Vec<Sample> = runs.concat();
        let kept: Vec<RadioDigest> = runs
            .iter()
            .map(|run| postcard::to_allocvec(&RadioDigest::of(run)).unwrap())
            .map(|packed| postcard::from_bytes(&packed).unwrap())
            .collect();
        prop_assert_eq!(RadioDigest::merged(&kept), RadioDigest::of(&all));
        prop_assert_eq!(RadioDigest::merged(&kept).summary(), summarise_samples(&all));
        // One after the other: each stays by itself.
        let mut fold = RadioFold::default();
        kept.iter().enumerate().for_each(|(n, one)| fold.add(RunId(id(n as u128)), one.clone()));
        let apart: Vec<_> = kept.iter().enumerate().map(|(n, one)| (RunId(id(n as u128)), one.clone())).collect();
        prop_assert_eq!(fold.done(), apart);
    }

    /// Counted by hand from the samples, without the digest.
    #[test]
    fn a_summary_counts_what_was_heard(runs in record()) {
        let all: Vec<Sample> = runs.concat();
        let RadioSummary { samples, carriers, findings } = summarise_samples(&all);
        prop_assert_eq!(samples, all.len());
        let total: usize = all.iter().map(|sample| sample.reading.carriers.len()).sum();
        prop_assert_eq!(carriers.iter().map(|one| one.samples).sum::<usize>(), total);
        for one in &carriers {
            let mut values: Vec<f64> = all
                .iter()
                .filter(|sample| sample.activity == one.activity)
                .flat_map(|sample| &sample.reading.carriers)
                .filter(|carrier| (carrier.technology, carrier.band, carrier.pci) == (one.cell.technology, one.cell.band, one.cell.pci))
                .filter_map(|carrier| carrier.sinr_db)
                .collect();
            values.sort_by(f64::total_cmp);
            let middle = (!values.is_empty()).then(|| (values[(values.len() - 1) / 2] + values[values.len() / 2]) / 2.0);
            prop_assert_eq!(one.sinr_db.map(|summary| summary.median), middle);
            prop_assert_eq!(one.sinr_db.map_or(0, |summary| summary.n), values.len());
        }
        let with_nr = all.iter().filter(|one| one.reading.carriers.iter().any(|carrier| carrier.technology == Technology::Nr)).count();
        let told = findings.iter().find_map(|one| match one {
            Finding::NrCameAndWent { heard, of } => Some((*heard, *of)),
            _ => None,
        });
        prop_assert_eq!(told, (with_nr > 0 && with_nr < all.len()).then_some((with_nr, all.len())));
    }

    /// A list counted is the list: the same quantiles as of the sorted list itself.
    #[test]
    fn counted_values_have_the_lists_quantiles(steps in prop::collection::vec(-40..40_i32, 1..60), p in 0.0..=1.0_f64) {
        let values: Vec<f64> = steps.iter().map(|step| f64::from(*step) / 2.0).collect();
        let counted = Counted::of(values.iter().copied());
        prop_assert_eq!(counted.n(), values.len());
        prop_assert_eq!(counted.quantile(p), quantile(&values, p));
        let centre = median(&values).unwrap();
        let deviations: Vec<f64> = values.iter().map(|value| (value - centre).abs()).collect();
        let summary = summarise(&values).unwrap();
        prop_assert_eq!((summary.median, summary.mad), (centre, median(&deviations).unwrap()));
        let (left, right) = values.split_at(values.len() / 2);
        let halves = [left, right].map(|half| Counted::of(half.iter().copied()));
        prop_assert_eq!(Counted::merged(&halves), counted);
    }
}

/// A record of years: neighbours in time are put together, nothing is lost, and each goes by its first run.
#[test]
fn a_very_long_record_is_put_together_by_neighbours() {
    let heard = |n: u128| RadioDigest::of(&[sample(n, n, Activity::Idle, vec![lte(3, 211, -90.0, 12.0)])]);
    let mut fold = RadioFold::default();
    (0..5000).for_each(|n| fold.add(RunId(id(n)), heard(n)));
    let kept = fold.done();
    assert!((500..=1024).contains(&kept.len()), "{}", kept.len());
    assert_eq!(RadioDigest::merged(kept.iter().map(|(_, one)| one)).samples(), 5000);
    let runs: Vec<u128> = kept.iter().map(|(run, _)| run.0.as_u128()).collect();
    let of: Vec<u128> = kept.iter().map(|(_, one)| one.samples() as u128).collect();
    let before = of.iter().scan(0, |sum, n| Some(std::mem::replace(sum, *sum + n)));
    assert_eq!(runs, before.collect::<Vec<_>>(), "each run stands where those before it end");
}
