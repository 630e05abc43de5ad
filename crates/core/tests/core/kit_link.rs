use crate::kits::*;
use open_beacon_core::antenna::pattern::{measured_below_db, rejection_db};
use open_beacon_core::feedline::noise::{CascadeStage, cascade_noise_figure_db};
use open_beacon_core::hardware::budget::{budget, gain_at_dbi};
use open_beacon_core::hardware::resolve::Resolved;
use open_beacon_core::kit::assess::{Assessment, Place, assess};
use open_beacon_core::kit::finding::KitFinding as F;
use open_beacon_core::kit::job::{Caution, job};
use open_beacon_core::link::received::sinr_db;
use open_beacon_core::link::rural::{height_term_db, path_loss_db, ways};
use open_beacon_core::link::walls::wall_loss_db;
use open_beacon_core::metrics::Limit;
use open_beacon_core::model::*;
use open_beacon_core::propagation::p525::free_space_loss_db;
use open_beacon_core::propagation::tr38901::{Rural, rural_loss};
use open_beacon_core::words;
use open_beacon_core::words::Style;
use proptest::prelude::*;

fn db_to_linear(db: f64) -> f64 {
    10f64.powf(db / 10.0)
}

fn linear_to_db(value: f64) -> f64 {
    10.0 * value.log10()
}

/// Error function, Abramowitz and Stegun 7.1.26 would do for 1e-7; here by its series.
fn erf(x: f64) -> f64 {
    let mut term = x;
    let mut sum = x;
    for n in 1..60 {
        term *= -x * x / f64::from(n);
        sum += term / f64::from(2 * n + 1);
    }
    sum * 2.0 / std::f64::consts::PI.sqrt()
}

fn judged(kit: &KitSpec, house: &House) -> Assessment {
    assess(&Resolved::new(kit, &catalogue()), &house.scenario(), Place::default())
}

fn has(found: &Assessment, wanted: fn(&F) -> bool) -> bool {
    found.found.iter().any(|one| wanted(&one.finding))
}

/// Feed loss at a band's middle.
fn feed_db(kit: &KitSpec, mhz: f64) -> f64 {
    budget(&Resolved::new(kit, &catalogue()), mhz, 20.0, 1.0).feed_loss_db
}

#[test]
fn the_feed_line_adds_up_along_the_chain() {
    let catalogue = catalogue();
    let kit = sound();
    let at = budget(&Resolved::new(&kit, &catalogue), 1800.0, 20.0, 1.0);
    let sum: f64 = at.steps.iter().map(|step| step.loss_db).sum();
    assert!((sum - at.feed_loss_db).abs() < 1e-9 && at.steps.len() == 9);
    assert!((at.steps.last().unwrap().so_far_db - sum).abs() < 1e-12);
    // Common practice, no source: about 9 m of 400-class lose 1.7 dB at 1.8 GHz; here 10 m, with five joints and an
    // arrestor, so 1.9 + 0.5 to 0.8.
    assert!((2.3..3.0).contains(&at.feed_loss_db), "{}", at.feed_loss_db);
    // Friis by hand: passive loss before a receiver of 6 dB adds dB for dB.
    let chain = [CascadeStage::loss(at.feed_loss_db), CascadeStage { gain_db: 0.0, noise_figure_db: 6.0 }];
    assert!((at.noise_figure_db - cascade_noise_figure_db(&chain)).abs() < 1e-9);
    assert!((at.noise_figure_db - (6.0 + at.feed_loss_db)).abs() < 1e-9);
    let gain = at.antenna_gain_dbi.unwrap();
    assert!((at.eirp_dbm.unwrap() - (23.0 + gain - at.feed_loss_db)).abs() < 1e-9);
}

proptest! {
    #[test]
    fn loss_is_monotone_in_length_and_frequency(length in 0.5..90.0f64, more in 0.1..10.0f64, mhz in 600.0..5000.0f64, up in 1.0..900.0f64) {
        let of = |length_m: f64, mhz: f64| {
            let mut kit = sound();
            kit.chain[0].length_m = Some(length_m);
            feed_db(&kit, mhz)
        };
        prop_assert!(of(length + more, mhz) > of(length, mhz));
        prop_assert!(of(length, mhz + up) > of(length, mhz));
    }

    /// Two cells, closed form, with any rejection and loss before the receiver.
    #[test]
    fn two_cells_and_noise_follow_the_closed_form(s in -120.0..-70.0f64, i in -130.0..-80.0f64, change in -10.0..20.0f64, rejection in 0.0..20.0f64) {
        let expected = db_to_linear(s + change)
            / (db_to_linear(-125.0) + db_to_linear(i + change - rejection));
        let found = sinr_db(s + change, i + change - rejection, -125.0);
        prop_assert!((found - linear_to_db(expected)).abs() < 1e-9);
        // Loss before the receiver does not change a link that interference limits.
        prop_assert!((sinr_db(s, i, -300.0) - sinr_db(s - 8.0, i - 8.0, -300.0)).abs() < 1e-6);
    }

    #[test]
    fn a_part_without_loss_changes_nothing(length in 1.0..40.0f64) {
        let mut parts = open_beacon_core::hardware::catalogue::built_in();
        let joints = 2.0 * open_beacon_core::feedline::joint::Series::N.joint_loss_db(1842.5);
        let mut nothing = parts.iter().find(|part| part.name.starts_with("Jumper, N")).unwrap().clone();
        nothing.id = PartId(uuid::Uuid::from_u128(77));
        let n = |gender| open_beacon_core::feedline::joint::Connector {
            series: open_beacon_core::feedline::joint::Series::N, gender,
        };
        use open_beacon_core::feedline::joint::Gender;
        // A perfect jumper whose joint is paid for by its own negative loss: nothing is left.
        nothing.spec = PartSpec::Jumper(JumperSpec {
            antenna_end: n(Gender::Male),
            gateway_end: n(Gender::Female),
            loss_db_2ghz: -(joints / 2.0) / (1842.5f64 / 2000.0).sqrt(),
            length_m: 0.0,
            flat: false,
        });
        parts.push(nothing.clone());
        let catalogue = open_beacon_core::hardware::catalogue::Catalogue::of(parts);
        let mut kit = sound();
        kit.chain[0].length_m = Some(length);
        let before = assess(&Resolved::new(&kit, &catalogue), &weak().scenario(), Place::default()).outlook;
        kit.chain.insert(0, ChainPart { part_id: nothing.id, length_m: None, turned: false, outdoors: false });
        let after = assess(&Resolved::new(&kit, &catalogue), &weak().scenario(), Place::default()).outlook;
        let lte3 = |outlook: &open_beacon_core::kit::predict::Outlook| outlook.bands[1].budget.feed_loss_db;
        prop_assert!((lte3(&before) - lte3(&after)).abs() < 1e-9);
        let sinr = |outlook: &open_beacon_core::kit::predict::Outlook| outlook.bands[1].radio.unwrap().sinr_db.likely;
        prop_assert!((sinr(&before) - sinr(&after)).abs() < 1e-9);
    }
}

#[test]
fn gain_runs_straight_between_its_points_and_ends_with_them() {
    let catalogue = catalogue();
    let PartSpec::Antenna(spy) = &catalogue.part(part("Spyd")).unwrap().spec else { panic!("antenna") };
    assert_eq!(gain_at_dbi(spy, 1700.0), Some(15.0));
    assert_eq!(gain_at_dbi(spy, 1950.0), Some(15.5));
    assert_eq!(gain_at_dbi(spy, 1699.0), None);
    assert_eq!(gain_at_dbi(spy, 3801.0), None);
}

#[test]
fn a_measured_pattern_closes_round_the_circle() {
    let at = |off_deg: f64, below_db: f64| PatternPoint { off_deg, below_db };
    let points = [at(0.0, 0.0), at(90.0, 10.0), at(180.0, 20.0), at(-90.0, 12.0)];
    assert_eq!(measured_below_db(&points, 45.0), Some(5.0));
    assert_eq!(measured_below_db(&points, -135.0), Some(16.0));
    assert_eq!(measured_below_db(&points, 540.0), Some(20.0));
    assert_eq!(measured_below_db(&[], 0.0), None);
}

#[test]
fn rejection_is_the_mean_of_the_pattern() {
    // Closed forms: an omni rejects nothing; one interferer in the middle of the beam neither; one behind a
    // front-to-back ratio of 20 dB is 20 dB down; half the circle open and half 20 dB down: −10 lg 0.505.
    assert!(rejection_db(|_| 0.0, &[]).abs() < 1e-9);
    let half = |angle: f64| if angle.abs() < 90.0 { 0.0 } else { 20.0 };
    assert!(rejection_db(half, &[0.0]).abs() < 1e-9);
    assert!((rejection_db(half, &[180.0]) - 20.0).abs() < 1e-9);
    assert!((rejection_db(half, &[]) + linear_to_db((35.0 + 37.0 * 0.01) / 72.0)).abs() < 1e-9);
}

#[test]
fn at_a_noisy_site_an_omni_lifts_noise_and_a_panel_keeps_it_out() {
    // Strong interference: RSRP −90 with SINR 3 is far above the receiver's noise.
    let noisy = house(vec![heard(lte(3), 20.0, -90.0, 3.0, CarrierRole::Anchor)]);
    let mut omni = sound();
    omni.antenna = Some(part("Rund omni crossed"));
    let (omni, panel) = (judged(&omni, &noisy), judged(&sound(), &noisy));
    assert!(has(&omni, |f| matches!(f, F::NoiseRises { .. })), "{:#?}", omni.found);
    assert!(has(&panel, |f| matches!(f, F::DirectionHelps { .. })));
    let radio = |found: &Assessment| found.outlook.bands[0].radio.unwrap();
    assert!(radio(&omni).sinr_change_db.abs() < 0.5, "an omni changes no ratio");
    assert!(radio(&panel).sinr_change_db > 4.0);
    assert!(radio(&omni).rsrp_change_db.likely > 10.0);
    assert!(panel.outlook.down_mbps.unwrap().likely > 1.3 * omni.outlook.down_mbps.unwrap().likely);
    // Known bearings: an interferer right behind is rejected by the front-to-back ratio, one beside the mast not at all.
    let mut known = noisy.clone();
    known.settings.known_mast = Some(KnownMast { name: String::new(), bearing_deg: 100.0, distance_m: None });
    known.settings.kit.interferer_bearings_deg = vec![280.0];
    assert!((radio(&judged(&sound(), &known)).rejection_db - 22.0).abs() < 1e-9);
    known.settings.kit.interferer_bearings_deg = vec![102.0];
    assert!(radio(&judged(&sound(), &known)).rejection_db < 0.1);
}

#[test]
fn feed_loss_costs_the_uplink_in_full_whatever_limits_the_downlink() {
    let noisy = house(vec![heard(lte(3), 20.0, -95.0, 5.0, CarrierRole::Anchor)]);
    let (mut short, mut long) = (sound(), sound());
    for (kit, metres) in [(&mut short, 2.0), (&mut long, 60.0)] {
        kit.chain[0].length_m = Some(metres);
        // Clean and noise apart: the path is the same.
        kit.height_above_ground_m = Some(6.0);
    }
    let (short, long) = (judged(&short, &noisy), judged(&long, &noisy));
    let band = |found: &Assessment| found.outlook.bands[0].clone();
    let lost = band(&long).uplink_feed_loss_db - band(&short).uplink_feed_loss_db;
    assert!(lost > 8.0);
    let eirp = |found: &Assessment| band(found).budget.eirp_dbm.unwrap();
    assert!((eirp(&short) - eirp(&long) - lost).abs() < 0.4, "uplink and downlink lie 95 MHz apart");
    // The downlink here is limited by other cells: most of the loss goes unnoticed.
    let sinr = |found: &Assessment| band(found).radio.unwrap().sinr_db.likely;
    assert!(sinr(&short) - sinr(&long) < 1.0);
    assert!(has(&long, |f| matches!(f, F::UplinkPays { .. })));
    assert!(has(&long, |f| matches!(f, F::FeedEatsGain { .. })));
    assert!(long.outlook.up_mbps.unwrap().likely <= short.outlook.up_mbps.unwrap().likely);
}

#[test]
fn noise_limited_links_win_decibel_for_decibel() {
    let mut quiet = house(vec![heard(lte(3), 20.0, -122.3, 3.0, CarrierRole::Anchor)]);
    quiet.settings.outdoor.building = Some(Building::Traditional);
    let found = judged(&sound(), &quiet);
    let radio = found.outlook.bands[0].radio.unwrap();
    // By hand: at the reading all of the disturbance is the receiver's noise, −174 + 10 lg 15000 + 7 = −125.24 dBm. Outside,
    // interference that noise hid is taken 3 dB over the noise in the open at a sill's height; the antenna lifts it as it lifts
    // the signal, less what it rejects.
    let noise_dbm = -125.239;
    let lifted_db = radio.rsrp_change_db.likely - wall_loss_db(Mount::Indoor, &quiet.settings, 1842.5).mean;
    let interference_dbm = noise_dbm + 3.0 + 1.0 + lifted_db - radio.rejection_db;
    let expected = sinr_db(-122.3 + radio.rsrp_change_db.likely, interference_dbm, noise_dbm);
    assert!((radio.sinr_db.likely - expected).abs() < 0.1, "{} {expected}", radio.sinr_db.likely);
    assert!(radio.sinr_change_db > 12.0, "{}", radio.sinr_change_db);
}

#[test]
fn a_second_pair_pays_only_where_the_signal_feeds_more_streams() {
    let four = |rsrp: f64, sinr: f64| {
        let mut kit = sound();
        kit.antenna = Some(part("Lade wide panel, 4"));
        kit.mount = Some(part("Wall arm"));
        kit.leads = 4;
        judged(
            &kit,
            &house(vec![
                heard(nr(78), 80.0, rsrp, sinr, CarrierRole::Primary),
                heard(lte(20), 10.0, rsrp, sinr, CarrierRole::Anchor),
            ]),
        )
    };
    let rich = four(-85.0, 22.0);
    assert!(has(&rich, |f| matches!(f, F::SecondPairPays { .. })), "{:?}", rich.outlook.second_pair);
    let low_bands_only = {
        let mut kit = sound();
        kit.antenna = Some(part("Lade wide panel, 4"));
        kit.leads = 4;
        judged(&kit, &house(vec![heard(lte(20), 10.0, -85.0, 22.0, CarrierRole::Anchor)]))
    };
    // Ports 3 and 4 do not carry B20: there is nothing for a second pair to do.
    assert_eq!(low_bands_only.outlook.second_pair, None);
    let two = judged(&sound(), &weak());
    assert_eq!(two.outlook.second_pair, None);
}

#[test]
fn the_wire_caps_what_the_radio_brings() {
    let mut kit = sound();
    kit.gateway = Some(part("Stue travel"));
    let rich = house(vec![heard(lte(3), 20.0, -80.0, 25.0, CarrierRole::Anchor)]);
    let rich = House { measured_down_mbps: Some(150.0), ..rich };
    let found = judged(&kit, &rich);
    assert!(has(&found, |f| matches!(f, F::LanCaps { .. })));
    // 100 Mbit/s of Ethernet carry 94.9 of TCP payload (1460 of 1538 bytes).
    assert!((found.outlook.down_mbps.unwrap().likely - 94.93).abs() < 0.01);
}

#[test]
fn margin_grows_with_signal_and_is_missing_where_the_need_is_missed() {
    let with = |rsrp: f64, sinr: f64| {
        judged(&sound(), &house(vec![heard(lte(3), 20.0, rsrp, sinr, CarrierRole::Anchor)])).outlook
    };
    let (weak, strong) = (with(-112.0, 6.0), with(-100.0, 16.0));
    let (low, high) = (weak.margin.unwrap(), strong.margin.unwrap());
    assert!(high.margin_db > low.margin_db + 4.0);
    assert!(high.availability > low.availability && high.availability <= 1.0);
    assert!(high.low_db <= high.margin_db && high.margin_db <= high.high_db);
    // Φ(margin / spread), by its own series.
    let one_spread = low.availability;
    assert!(
        (one_spread - 0.5 * (1.0 + erf(low.margin_db / low.fading.spread_db / 2f64.sqrt()))).abs() < 1e-6
    );
    assert!(
        low.fading.visits == 0 && (low.fading.spread_db - 2.0).abs() < 1e-9,
        "nothing was measured twice"
    );
    let mut hopeless = house(vec![heard(lte(3), 5.0, -135.0, -12.0, CarrierRole::Anchor)]);
    hopeless.settings.kit.uses[2].count = 4;
    let found = judged(&sound(), &hopeless);
    assert!(found.outlook.margin.is_none() && matches!(found.title, F::MissesNeed { .. }));
    assert!(matches!(judged(&sound(), &house(vec![])).title, F::NothingToPredict));
}

#[test]
fn measured_speed_scales_what_is_expected() {
    let at = |measured: Option<f64>| {
        let house = House { measured_down_mbps: measured, ..weak() };
        judged(&sound(), &house).outlook
    };
    let (free, busy, idle) = (at(None), at(Some(2.0)), at(Some(30.0)));
    assert_eq!(free.possible_down_mbps, busy.possible_down_mbps);
    let likely = |outlook: &open_beacon_core::kit::predict::Outlook| outlook.down_mbps.unwrap().likely;
    assert!(likely(&busy) < likely(&free) && likely(&busy) < likely(&idle));
    // Fifteen times the speed measured is near fifteen times the speed expected: the house's share is learned, all but
    // what is the setup's own (shares of variance 0.25 of 0.25 + 0.04 + 0.0625 + 0.01).
    let times = (likely(&idle) / likely(&busy)).ln() / 15f64.ln();
    assert!((times - 0.25 / 0.3625).abs() < 0.02, "{times}");
}

#[test]
fn height_and_path_follow_the_rural_model() {
    let at = |height: f64| {
        let scenario = Rural { terminal_height_m: height, ..Rural::default() };
        rural_loss(&scenario, 3000.0, 1800.0).unwrap().obstructed_db.unwrap()
    };
    // Halfway between obstructed RMa, at 3 km (slant distance differs by centimetres), and ITU-R P.529-3's term: at 1.8 GHz
    // 2.8808 dB a metre.
    let gained = height_term_db(8.0, 1800.0) - height_term_db(1.5, 1800.0);
    assert!((gained - 0.5 * (at(1.5) - at(8.0)) - 0.5 * 2.8808 * 6.5).abs() < 0.02);
    assert_eq!(height_term_db(10.0, 900.0), height_term_db(18.0, 900.0));
}

/// The rural model stands in by its own probability of line of sight (`rural_loss` is checked against pycraf), Okumura and Hata's beside
/// it; past the tables it goes on without a step and with more doubt.
#[test]
fn without_ground_two_rural_models_have_half_each() {
    let [clear, obstructed, quasi_open] = ways(35.0, 1000.0, 1.5, 900.0);
    let table = rural_loss(&Rural::default(), 1000.0, 900.0).unwrap();
    assert!((clear.0 - table.line_of_sight_probability / 2.0).abs() < 1e-12);
    assert!((clear.0 + obstructed.0 - 0.5).abs() < 1e-12 && quasi_open.0 == 0.5);
    assert!((clear.1.mean - table.line_of_sight_db).abs() < 1e-9);
    assert!((obstructed.1.mean - table.obstructed_db.unwrap()).abs() < 1e-9);
    // Okumura and Hata by hand at 900 MHz, 30 m, 1.5 m and 1 km: 126.42 − 0.02 in a town, less 4.78 · 2.954² − 18.33 · 2.954 + 35.94 dB.
    let [_, _, quasi_open] = ways(30.0, 1000.0, 1.5, 900.0);
    assert!((quasi_open.1.mean - 102.92).abs() < 0.05, "{:?}", quasi_open.1);
    let kit = KitSettings::default();
    let at = |metres: f64| path_loss_db(&kit, metres, 6.0, 1800.0);
    let width = |metres: f64| at(metres).0.high - at(metres).0.low;
    assert!(!at(3000.0).1 && at(12_000.0).1);
    for ends in [5000.0, 10_000.0] {
        let step = at(ends + 0.01).0.likely - at(ends - 0.01).0.likely;
        assert!(step.abs() < 0.01, "a step of {step} dB at {ends} m");
        assert!(width(2.0 * ends) > width(ends) + 1.0);
    }
    let tall = KitSettings { mast_height_m: 8.0, ..kit.clone() };
    assert!(path_loss_db(&tall, 3000.0, 6.0, 1800.0).1, "a height that the tables do not have is said");
    // In sight of a mast nearby nothing is less than free space.
    let near = path_loss_db(&kit, 40.0, 10.0, 1800.0).0;
    assert!(near.likely >= free_space_loss_db(40.0_f64.hypot(25.0), 1800.0));
}

#[test]
fn only_cautions_that_apply_are_printed() {
    let catalogue = catalogue();
    let plan = |kit: &KitSpec, settings: &KitSettings| {
        let mut site = weak();
        site.settings.kit = settings.clone();
        let resolved = Resolved::new(kit, &catalogue);
        let found = assess(&resolved, &site.scenario(), Place::default());
        job(&resolved, &found, settings, None)
    };
    let window = KitSpec {
        gateway: Some(part("Vinkel 4")),
        antenna: Some(part("Rute window")),
        chain: vec![],
        mount: Some(part("Suction")),
        ..KitSpec::default()
    };
    let quiet = plan(&window, &KitSettings::default());
    let dangerous = |one: &Caution| {
        matches!(
            one,
            Caution::Ladder { .. }
                | Caution::Roof
                | Caution::OverheadLine { .. }
                | Caution::Storm
                | Caution::Drilling
                | Caution::AtticHeat
                | Caution::OpeningDevice
        )
    };
    assert!(!quiet.cautions.iter().any(dangerous), "{:?}", quiet.cautions);
    let mut roof = sound();
    roof.mount = Some(part("Roof mast"));
    roof.gateway_place = GatewayPlace::Attic;
    roof.height_above_ground_m = Some(9.0);
    let near = KitSettings { overhead_line_m: Some(8.0), ..KitSettings::default() };
    let hard = plan(&roof, &near);
    for wanted in [Caution::Roof, Caution::Storm, Caution::Lightning, Caution::Drilling, Caution::AtticHeat] {
        assert!(hard.cautions.contains(&wanted), "{wanted:?} in {:?}", hard.cautions);
    }
    let line = Caution::OverheadLine { reach_m: 10.0, distance_m: Some(8.0), within_reach: true };
    assert!(hard.cautions.contains(&line));
    for caution in &hard.cautions {
        assert!(words::job::caution(caution, Style::default()).ends_with('.'));
    }
    for step in hard.steps.iter().chain(&quiet.steps) {
        assert!(words::job::step(step, Style::default()).ends_with('.'));
    }
}

#[test]
fn a_kit_at_an_interference_limited_site_says_so() {
    let found = judged(&sound(), &house(vec![heard(lte(3), 20.0, -90.0, 3.0, CarrierRole::Anchor)]));
    assert_eq!(found.outlook.bands[0].radio.unwrap().limit, Limit::Interference);
}
