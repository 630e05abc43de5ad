use crate::samples::{lte, nr};
use open_beacon_domain::bands::{all_bands, usual_widths, usual_widths_of};
use open_beacon_domain::capacity::constellation::{buys, symbols};
use open_beacon_domain::capacity::cqi::{CqiTable, row_at, threshold_db};
use open_beacon_domain::capacity::duplex::{PatternError, lte_tdd_share, nr_tdd_share};
use open_beacon_domain::capacity::modulation::Modulation;
use open_beacon_domain::capacity::peak::{lte_peak_mbps, nr_peak_mbps};
use open_beacon_domain::capacity::possible::*;
use open_beacon_domain::capacity::shannon::{Direction, efficiency_bps_hz, layered_bps_hz};
use open_beacon_domain::capacity::uplink::{coupling_loss_db, uplink};
use open_beacon_domain::model::{Carrier, CarrierRole, ConnectionMode, LinkAssumptions, Technology};
use proptest::prelude::*;

/// TS 36.213 tables 7.2.3-1 and -2, TS 38.214 tables 5.2.2.1-2 and -3: efficiency is bits a symbol times code rate,
/// printed to four digits; and printed points of the tables.
#[test]
fn cqi_tables_agree_with_themselves_and_with_printed_points() {
    for table in [CqiTable::To64Qam, CqiTable::To256Qam] {
        for row in table.rows() {
            let computed = f64::from(row.modulation.bits()) * f64::from(row.rate_1024) / 1024.0;
            assert!((computed - row.efficiency).abs() < 6e-5, "CQI {}", row.cqi);
        }
    }
    assert_eq!(CqiTable::To64Qam.rows()[14].efficiency, 5.5547);
    assert_eq!(CqiTable::To64Qam.rows()[6].rate_1024, 378);
    assert_eq!(CqiTable::To256Qam.rows()[14].efficiency, 7.4063);
    assert_eq!(CqiTable::To256Qam.rows()[11].modulation, Modulation::Qam256);
}

/// Common practice, no source: thresholds rise with the CQI; 22.7 dB for CQI 15 of the 64QAM table.
#[test]
fn cqi_thresholds_rise() {
    for table in [CqiTable::To64Qam, CqiTable::To256Qam] {
        let all: Vec<f64> = (1..=15).map(|cqi| threshold_db(table, cqi).unwrap()).collect();
        assert!(all.windows(2).all(|pair| pair[0] < pair[1]), "{all:?}");
    }
    assert_eq!(row_at(CqiTable::To64Qam, 23.0).unwrap().cqi, 15);
    assert_eq!(row_at(CqiTable::To64Qam, -7.0), None);
}

/// TS 38.306 4.1.2: 100 MHz, 30 kHz, 273 blocks, four layers, 256QAM: 2337 Mbit/s. TS 36.213 7.1.7.2: 20 MHz, two
/// layers at 64QAM: 2 × 75376 bits a millisecond.
#[test]
fn peak_rates_worked_from_the_standard() {
    assert!((nr_peak_mbps(Direction::Down, 273, 30, 4, 8) - 2337.0).abs() < 1.0);
    assert!((nr_peak_mbps(Direction::Up, 273, 30, 1, 6) - 2337.0 / 4.0 * 0.75 * 0.92 / 0.86).abs() < 1.0);
    assert!((lte_peak_mbps(20.0, 2).unwrap() - 150.752).abs() < 1e-9);
    assert_eq!(lte_peak_mbps(90.0, 2), None);
}

/// TS 36.211 table 4.2-2: each configuration's ten subframes; configuration 2 gives 6 down, 2 up, 2 special.
#[test]
fn time_shares_worked_from_the_standard() {
    let share = lte_tdd_share(2, 7).unwrap();
    assert!((share.down - 0.742_857).abs() < 1e-6 && (share.up - 0.2).abs() < 1e-12);
    assert_eq!(lte_tdd_share(7, 0), None);
    assert_eq!(lte_tdd_share(0, 9), None);
    let nr = nr_tdd_share("DDDSU", (10, 2)).unwrap();
    assert!((nr.down - (3.0 + 10.0 / 14.0) / 5.0).abs() < 1e-12);
    assert!((nr.up - (1.0 + 2.0 / 14.0) / 5.0).abs() < 1e-12);
    assert_eq!(nr_tdd_share("DDXU", (10, 2)), Err(PatternError::Letters));
    assert_eq!(nr_tdd_share("DDDSU", (10, 6)), Err(PatternError::Symbols));
}

/// TR 36.942 A.2: closed form at 0 dB (0.6 bit/s/Hz), the caps, and nothing below −10 dB.
#[test]
fn attenuated_shannon_closed_form() {
    let of = |direction, sinr| efficiency_bps_hz(Technology::Lte, direction, sinr);
    assert!((of(Direction::Down, 0.0) - 0.6).abs() < 1e-12);
    assert!((of(Direction::Up, 0.0) - 0.4).abs() < 1e-12);
    assert_eq!(of(Direction::Down, 60.0), 4.4);
    assert_eq!(of(Direction::Up, 60.0), 2.0);
    assert_eq!(of(Direction::Down, -10.1), 0.0);
    let nr = efficiency_bps_hz(Technology::Nr, Direction::Down, 50.0);
    assert!((nr - 0.6 * 1001.0_f64.log2()).abs() < 1e-12, "TR 38.803: SINR counts to 30 dB");
}

/// By hand: 23 dBm, coupling loss 130 dB, one block of 180 kHz, mast noise figure 5 dB:
/// 23 − 130 − (−174 + 52.55 + 5) = 9.45 dB.
#[test]
fn an_uplink_budget_worked_by_hand() {
    let one = uplink(Technology::Lte, 130.0, 1, 15, 23.0, 5.0);
    assert!((one.sinr_db - 9.447).abs() < 0.01, "{}", one.sinr_db);
    assert!(one.power_limited);
    assert_eq!(coupling_loss_db(15.0, -115.0), 130.0);
    // Near the mast the table's cap is what limits.
    let near = uplink(Technology::Lte, 80.0, 100, 15, 23.0, 5.0);
    assert!(!near.power_limited && (near.rate_mbps - 2.0 * 18.0).abs() < 1e-9);
}

/// A wide TDD mid band carries more down and less up than a low band at the same spot: common practice, no source.
#[test]
fn mid_band_carries_down_and_low_band_carries_up() {
    let assumed = LinkAssumptions::default();
    let mid = carrier_rates(&nr(78, 1, -108.0, 10.0), &assumed);
    let mut low = lte(20, 1, -95.0, 8.0);
    low.bandwidth_mhz = Some(10.0);
    let low = carrier_rates(&low, &assumed);
    assert!(mid.down_mbps.unwrap().likely > 3.0 * low.down_mbps.unwrap().likely);
    assert!(low.up_mbps.unwrap().likely > 1.5 * mid.up_mbps.unwrap().likely);
}

/// LTE and NR that send at once share one transmitter: each goes 10 lg 2 = 3.01 dB lower (TS 38.213 clause 7.6.1 bounds their sum), so
/// that both together carry less than each alone at full power, and one alone is as before.
#[test]
fn lte_and_nr_share_one_transmitters_power() {
    let assumed = LinkAssumptions::default();
    let half = LinkAssumptions { transmit_power_dbm: assumed.transmit_power_dbm - 3.0103, ..assumed.clone() };
    let mut anchor = lte(3, 1, -112.0, 4.0);
    anchor.role = CarrierRole::Anchor;
    let mut leg = nr(78, 2, -110.0, 6.0);
    leg.role = CarrierRole::Primary;
    let up = |carriers: &[Carrier], mode| possible(carriers, mode, &assumed).up_mbps.unwrap().likely;
    let alone =
        |carrier: &Carrier, with: &LinkAssumptions| carrier_rates(carrier, with).up_mbps.unwrap().likely;
    let both = up(&[anchor.clone(), leg.clone()], ConnectionMode::Nsa);
    assert!((both - alone(&anchor, &half) - alone(&leg, &half)).abs() < 1e-3, "{both}");
    assert!(both < 0.95 * (alone(&anchor, &assumed) + alone(&leg, &assumed)));
    assert!((up(&[anchor.clone()], ConnectionMode::Lte) - alone(&anchor, &assumed)).abs() < 1e-9);
}

#[test]
fn what_is_not_known_is_left_out_not_guessed() {
    let assumed = LinkAssumptions::default();
    let mut carrier = lte(3, 1, -90.0, 10.0);
    (carrier.bandwidth_mhz, carrier.band, carrier.channel) = (None, None, None);
    let all = possible(&[carrier, nr(78, 2, -90.0, 15.0)], ConnectionMode::Nsa, &assumed);
    assert_eq!(all.left_out, 1);
    assert_eq!(all.carriers[0].down_mbps, None);
    assert_eq!(all.down_mbps, all.carriers[1].down_mbps);
    // A downlink-only band has no uplink.
    let mut sdl = lte(32, 1, -90.0, 10.0);
    sdl.role = CarrierRole::Secondary;
    assert_eq!(carrier_rates(&sdl, &assumed).up_mbps, None);
    let share = measured_share(Some(10.0), all.down_mbps).unwrap();
    assert!(share.low < share.likely && share.likely < share.high);
    assert_eq!(measured_share(None, all.down_mbps), None);
}

/// Unit mean power of every modulation (TS 36.211 7.1), and 3 dB more never buys less.
#[test]
fn constellations_have_unit_power() {
    for modulation in Modulation::ALL {
        let levels = modulation.levels();
        let power = 2.0 * levels.iter().map(|level| level * level).sum::<f64>() / levels.len() as f64;
        assert!((power - 1.0).abs() < 1e-12, "{modulation:?}");
    }
    let clean = symbols(Modulation::Qam256, 45.0, 400, 1);
    assert!(clean.iter().all(|symbol| !symbol.mistaken));
    let noisy = symbols(Modulation::Qam256, 10.0, 400, 1);
    assert!(noisy.iter().filter(|symbol| symbol.mistaken).count() > 200);
    assert_eq!(noisy, symbols(Modulation::Qam256, 10.0, 400, 1), "repeatable");
}

/// Error rate of QPSK at 5 dB, closed form: 1 − (1 − Q(sqrt SINR))² with Q(1.778) = 0.0377 → 0.0740.
#[test]
fn qpsk_errors_match_the_closed_form() {
    let many = symbols(Modulation::Qpsk, 5.0, 40_000, 3);
    let share = many.iter().filter(|symbol| symbol.mistaken).count() as f64 / many.len() as f64;
    assert!((share - 0.0740).abs() < 0.006, "{share}");
}

proptest! {
    #[test]
    fn more_sinr_never_carries_less(sinr in -12.0..35.0f64, more in 0.0..10.0f64, layers in 1_u8..=4) {
        let of = |sinr| layered_bps_hz(Technology::Lte, Direction::Down, sinr, layers);
        prop_assert!(of(sinr + more) >= of(sinr));
        let bought = buys(Technology::Nr, sinr);
        prop_assert!(bought.bps_hz_with_3_db >= bought.bps_hz);
    }

    #[test]
    fn ranges_are_in_order(rsrp in -125.0..-60.0f64, sinr in -9.0..32.0f64, layers in 1_u8..=4) {
        let assumed = LinkAssumptions { layers, ..LinkAssumptions::default() };
        for carrier in [lte(3, 1, rsrp, sinr), nr(78, 1, rsrp, sinr)] {
            let rates = carrier_rates(&carrier, &assumed);
            for range in [rates.down_mbps.unwrap(), rates.up_mbps.unwrap()] {
                prop_assert!(range.low <= range.likely + 1e-9 && range.likely <= range.high + 1e-9, "{range:?}");
            }
        }
    }
}

proptest! {
    /// The number of blocks in closed form is the best of all, tried one by one.
    #[test]
    fn the_uplinks_best_number_of_blocks_is_the_best_of_all(loss in 80.0..165.0f64, blocks in 1..273u16, power in 20.0..27.0f64) {
        for (technology, spacing) in [(Technology::Lte, 15), (Technology::Nr, 30)] {
            let found = uplink(technology, loss, blocks, spacing, power, 8.0);
            let one_by_one = (1..=blocks)
                .map(|used| {
                    // Attenuated Shannon over so many blocks: TR 36.942 A.2, TR 38.803.
                    let hertz = f64::from(used) * 12.0 * f64::from(spacing) * 1e3;
                    let sinr_db = power - loss + 174.0 - 10.0 * hertz.log10() - 8.0;
                    open_beacon_domain::capacity::shannon::efficiency_bps_hz(technology, Direction::Up, sinr_db) * hertz / 1e6
                })
                .fold(0.0, f64::max);
            prop_assert!((found.rate_mbps - one_by_one).abs() < 1e-9 * one_by_one.max(1.0), "{found:?} {one_by_one}");
        }
    }
}

/// A page without a width still gives a verdict: the usual widths of the band are the range, and it is said.
#[test]
fn a_carrier_without_a_width_is_as_wide_as_is_usual() {
    let assumed = LinkAssumptions::default();
    let known = |carrier: &Carrier, mhz: f64| {
        carrier_rates(&Carrier { bandwidth_mhz: Some(mhz), ..carrier.clone() }, &assumed).down_mbps.unwrap()
    };
    for mut carrier in
        [lte(3, 1, -90.0, 12.0), lte(20, 1, -90.0, 12.0), nr(78, 1, -90.0, 15.0), nr(28, 1, -90.0, 15.0)]
    {
        carrier.bandwidth_mhz = None;
        let rates = carrier_rates(&carrier, &assumed);
        let (found, widths) = (rates.down_mbps.unwrap(), rates.assumed_widths.unwrap());
        assert_eq!(found.likely, known(&carrier, widths.likely_mhz).likely);
        assert_eq!(found.low, known(&carrier, widths.low_mhz).low);
        assert_eq!(found.high, known(&carrier, widths.high_mhz).high);
        assert!(rates.up_mbps.is_some(), "{carrier:?}");
        carrier.band = None;
        let by_channel = usual_widths_of(&carrier);
        assert_eq!(by_channel.is_some(), carrier.channel.is_some());
    }
    assert_eq!(usual_widths_of(&nr(78, 1, -90.0, 15.0)), None, "a width that is known is not assumed");
}

/// TS 36.101 table 5.6.1-1 and TS 38.101-1 table 5.3.5-1: what is usual is allowed on the band.
#[test]
fn usual_widths_are_allowed_widths() {
    for technology in [Technology::Lte, Technology::Nr] {
        for place in all_bands(technology).iter().filter(|place| !place.bandwidths_mhz.is_empty()) {
            let usual = usual_widths(technology, place.band).unwrap();
            for width in [usual.low_mhz, usual.likely_mhz, usual.high_mhz] {
                assert!(place.bandwidths_mhz.contains(&width), "{}: {width}", place.name);
            }
            assert!(usual.low_mhz <= usual.likely_mhz && usual.likely_mhz <= usual.high_mhz, "{usual:?}");
        }
    }
    // n7 is paired spectrum of 70 MHz: no carrier of 80 (from memory: usually 20).
    assert_eq!(usual_widths(Technology::Nr, 7).unwrap().likely_mhz, 20.0);
}
