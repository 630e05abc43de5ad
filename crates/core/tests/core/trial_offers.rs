//! What is on offer, and the choices that are made of it.

use super::trial::{NEED, band, carrier, choice, round, three, trial};
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::link::antenna::AimAntenna;
use open_beacon_core::link::cells::{Facts, Observation};
use open_beacon_core::link::environment::Environment;
use open_beacon_core::link::landscape::AntennaLocation;
use open_beacon_core::link::predict::{LinkPrediction, LinkSetup, predict};
use open_beacon_core::model::*;
use open_beacon_core::trial::choice::{Asked, Bundling, choices, outlooks};
use open_beacon_core::trial::judge::{HeldBy, ScoringContext, standings};
use open_beacon_core::trial::offer::{BandOffer, OfferInput, offer};
use open_beacon_core::words;
use std::sync::OnceLock;

fn cell(name: &str, channel: u32, mhz: f64) -> MastCell {
    let one = band(name);
    MastCell {
        technology: one.technology,
        band: Some(one.band),
        channel: Some(channel),
        bandwidth_mhz: Some(mhz),
        pci: None,
        node: None,
        local_cell: None,
        bearing_deg: None,
        power_dbm: None,
        load: None,
    }
}

fn offers() -> Vec<BandOffer> {
    let mut anchor = carrier("B3", CarrierRole::Anchor, -92.0, 15.0, 20.0);
    anchor.channel = Some(1300);
    let mut nr = carrier("n78", CarrierRole::Primary, -98.0, 12.0, 80.0);
    nr.channel = Some(636_666);
    let cells = [
        cell("B3", 1300, 20.0),
        cell("B20", 6300, 10.0),
        cell("n78", 636_666, 80.0),
        cell("n28", 154_600, 10.0),
    ];
    offer(&OfferInput {
        heard: &[anchor, nr],
        neighbours: &[],
        mast: Some(("Skarvnut", &cells)),
        kit: None,
        settings: &SiteSettings::default(),
        radio: Some((radio(), found())),
    })
}

const HOUSE: GeoPoint = GeoPoint { latitude_deg: 61.42, longitude_deg: 8.2 };
const STANDS: AntennaLocation =
    AntennaLocation { place: Some(HOUSE), height_m: 6.0, mount: Mount::Pole, position: None };

/// The house's radio environment: the mast 4 km away over flat ground, its B3 and n78 heard on the setup.
fn radio() -> &'static Environment<'static> {
    static AIR: OnceLock<Environment<'static>> = OnceLock::new();
    AIR.get_or_init(|| {
        let mut cells = vec![
            cell("B3", 1300, 20.0),
            cell("B20", 6300, 10.0),
            cell("n78", 636_666, 80.0),
            cell("n28", 154_600, 10.0),
        ];
        cells.iter_mut().for_each(|one| one.pci = Some(211));
        let mut heard = [
            carrier("B3", CarrierRole::Anchor, -92.0, 15.0, 20.0),
            carrier("n78", CarrierRole::Primary, -98.0, 12.0, 80.0),
        ];
        for (one, listed) in heard.iter_mut().zip([&cells[0], &cells[2]]) {
            (one.channel, one.pci) = (listed.channel, listed.pci);
        }
        let mast = crate::survey::mast(1, "Skarvnut", 143.0, 4000.0, cells);
        let masts: &'static [Mast] = Box::leak(vec![mast].into_boxed_slice());
        Environment::new(Facts {
            masts,
            obstacles: &[],
            ground: Box::leak(Box::new(crate::survey::ground_by(|_, _| 400.0))),
            settings: Box::leak(Box::new(SiteSettings::default())),
            house: Some(HOUSE),
            observations: vec![Observation {
                spot: "Pole".into(),
                location: STANDS,
                antenna: AimAntenna::Stock,
                aim: None,
                turned: false,
                carriers: heard.to_vec(),
                mode: ConnectionMode::Nsa,
                lock: BandChoice::default(),
                samples: 9,
                download_mbps: None,
                upload_mbps: None,
            }],
            mode: ConnectionMode::Nsa,
        })
    })
}

fn found() -> &'static LinkPrediction<'static> {
    static FOUND: OnceLock<LinkPrediction<'static>> = OnceLock::new();
    FOUND.get_or_init(|| predict(radio(), &LinkSetup::new(STANDS, AimAntenna::Stock)).unwrap())
}

/// What was not heard is as the house's prediction has it: over flat ground in sight B20 loses less than B3 by free space's
/// 20 lg(1815/806) = 7.05 dB (ITU-R P.525), and from 6 to 10 m half of 1.1 lg(1815/806) · 4 = 0.78 dB (ITU-R P.529-3); what was heard of
/// the mast moves it.
#[test]
fn what_is_on_offer_joins_what_is_heard_and_what_the_mast_has() {
    let all = offers();
    let names: Vec<&str> = all.iter().map(|one| one.name.as_str()).collect();
    assert_eq!(names, ["B20", "B3", "n28", "n78"]);
    let b20 = &all[0];
    assert!(!b20.seen && b20.on_mast && b20.gateway.is_none());
    let estimated = &b20.carriers[0];
    let computed =
        |at: usize| found().carriers.iter().find(|one| one.cell == at).unwrap().arriving.computed_dbm;
    assert!((computed(1) - computed(0) - 7.83).abs() < 0.3, "{} {}", computed(1), computed(0));
    // Both that were heard lie below what was computed; it is moved their way, not quite as far as they.
    let moved = estimated.carrier.rsrp_dbm.unwrap() - (computed(1) + 1.0);
    let off = [-92.0 - (computed(0) + 1.0), -98.0 - (computed(2) + 1.0)];
    assert!(
        off.iter().all(|off| *off < -8.0) && moved < -5.0 && moved > off[0].min(off[1]),
        "{moved} {off:?}"
    );
    assert!(estimated.doubt_db > 3.0, "{}", estimated.doubt_db);
    // TS 36.101 table 5.5-1 has B20 down at 791 to 821 MHz, TS 38.101-1 table 5.2-1 n28 at 758 to 803.
    assert_eq!(
        (&all[2].shares_with, &all[0].shares_with),
        (&vec!["B20".to_owned()], &vec!["n28".to_owned()])
    );
    assert!(all[1].seen && all[1].shares_with.is_empty());
}

#[test]
fn choices_cover_every_way_and_combinations_bind() {
    let all = offers();
    let any = Bundling::of(None, &[]);
    let found = choices(&all, &any);
    let names: Vec<String> = found.iter().map(words::trial::choice_words).collect();
    for wanted in
        ["Nothing locked", "LTE only", "LTE only, B20", "NSA, anchor B20", "NSA, n28", "SA", "SA, n78"]
    {
        assert!(names.iter().any(|name| name == wanted), "{wanted} is not in {names:?}");
    }
    let ask = Asked {
        receiver: None,
        goal: TrialGoal::Download,
        need: NEED,
        link: LinkAssumptions::default(),
        shares: (1.0, 1.0),
    };
    let predict = |bundling: &Bundling, choice: BandChoice| {
        outlooks(&all, &[choice], ConnectionMode::Nsa, bundling, &ask).remove(0).prediction
    };
    let free = predict(&any, BandChoice::default());
    assert_eq!(free.bands[0], band("B3"), "the anchor that carries the most");
    let bound = Bundling::of(None, &[vec![band("B20"), band("n28")], vec![band("B3"), band("n78")]]);
    assert_eq!(predict(&bound, BandChoice::default()).bands, [band("B3"), band("n78")]);
    let low = predict(&bound, choice(BandAccess::Nsa, &[20], &[]));
    assert_eq!(low.bands, [band("B20"), band("n28")]);
    assert!(low.down_mbps.unwrap().likely < free.down_mbps.unwrap().likely);
    let sa = predict(&any, choice(BandAccess::Sa, &[], &[]));
    assert!(sa.idle_latency_ms.likely < free.idle_latency_ms.likely && sa.mode == ConnectionMode::Sa);
}

#[test]
fn weak_is_told_from_crowded() {
    let of = round(&three(), 3);
    let offers = offers();
    let ruler = ScoringContext {
        goal: TrialGoal::Download,
        need: NEED,
        offers: &offers,
        link: LinkAssumptions::default(),
        zone: chrono_tz::UTC,
    };
    let held = |rsrp: f64, sinr: f64, mbps: f64| {
        let mut one = trial(&of, &of.choices[1], 0, TrialOutcome::Measured, &[mbps]);
        let heard = carrier("B3", CarrierRole::Primary, rsrp, sinr, 20.0);
        one.samples =
            vec![Reading { mode: ConnectionMode::Lte, carriers: vec![heard], neighbours: Vec::new() }];
        let found = standings(std::slice::from_ref(&of.choices[1]), &[one], &ruler).remove(0);
        (found.held_by.unwrap(), words::trial::held_words(&found))
    };
    // 20 MHz at 18 dB could carry more than 100 Mbit/s; at 2 dB about 25.
    assert_eq!(held(-85.0, 18.0, 90.0), (HeldBy::Neither, None));
    let (by, words) = held(-85.0, 18.0, 20.0);
    assert_eq!(by, HeldBy::Crowded);
    assert!(words.unwrap().starts_with("Crowded at this hour"));
    assert_eq!(held(-112.0, 2.0, 20.0).0, HeldBy::Weak);
    assert_eq!(held(-112.0, 2.0, 1.0).0, HeldBy::Both);
}
