//! The stand-in's world against what standards and physics say of any world: predictions are judged by it, so that it must not
//! lean on the formulas it judges. What is checked here is computed here.

use open_beacon_core::bands::carrier_frequency_mhz;
use open_beacon_core::model::{CarrierRole, ChannelKind, Technology};
use open_beacon_simulator::antenna::{feed_loss_db, internal_gain_dbi, panel_gain_dbi};
use open_beacon_simulator::channel::{Cover, Stand, load, path_gain_db};
use open_beacon_simulator::radio::{Pose, hear};
use open_beacon_simulator::terrain::ground_m;
use open_beacon_simulator::world::{Mast, valley};

const NOON: f64 = 1_794_481_200.0;

fn masts() -> Vec<Mast> {
    valley()
}

fn outside(azimuth_deg: f64) -> Pose {
    Pose {
        mount: "pole".into(),
        antenna: "external".into(),
        height_above_ground_m: 8.0,
        azimuth_deg,
        ..Pose::default()
    }
}

/// TS 36.214 section 5.1.3 and TS 38.215 section 5.1.3: RSRQ = N x RSRP / RSSI, N the number of resource blocks that the RSSI was
/// measured over. A fully idle cell alone on its channel comes to −3 dB at the most with one reference symbol in six, and loaded
/// ones lie below.
#[test]
fn rsrq_follows_from_power_and_total() {
    for at in [NOON, NOON + 7.0 * 3600.0, NOON + 13.0 * 3600.0] {
        for one in hear(7, &masts(), &outside(143.0), at) {
            let blocks = one.cell.resource_elements / 12.0;
            let expected = 10.0 * blocks.log10() + one.rsrp_dbm - one.rssi_dbm;
            assert!((one.rsrq_db - expected).abs() < 1e-9, "{expected} {one:?}");
            assert!(one.rsrq_db < -2.5, "no cell is that quiet: {one:?}");
            assert!(one.rssi_dbm > one.rsrp_dbm + 10.0 * blocks.log10(), "{one:?}");
        }
    }
}

/// SINR cannot be better than power over thermal noise: k T in 15 kHz at 290 K is −132.2 dBm (kT = −174 dBm/Hz), and a receiver
/// adds to it.
#[test]
fn nothing_is_cleaner_than_thermal_noise_lets_it() {
    let thermal_dbm = -173.98 + 10.0 * 15_000_f64.log10();
    assert!((thermal_dbm + 132.2).abs() < 0.05);
    for azimuth in [0.0, 143.0, 270.0] {
        for one in hear(3, &masts(), &outside(azimuth), NOON) {
            assert!(one.sinr_db <= one.rsrp_dbm - thermal_dbm, "{one:?}");
        }
    }
}

/// Channel numbers and frequencies agree with TS 36.101 table 5.7.3-1 and TS 38.104 section 5.4.2.
#[test]
fn channels_lie_where_the_standards_put_them() {
    for cell in masts().iter().flat_map(|mast| &mast.cells) {
        let kind = match cell.technology {
            Technology::Lte => ChannelKind::Carrier,
            Technology::Nr => ChannelKind::Unknown,
        };
        let mut carrier = open_beacon_core::model::Carrier::empty(cell.technology, CarrierRole::Primary);
        (carrier.band, carrier.channel, carrier.channel_kind) = (Some(cell.band), Some(cell.channel), kind);
        let mhz = carrier_frequency_mhz(&carrier).unwrap();
        assert!(
            (mhz - cell.frequency_mhz).abs() < 20.0,
            "band {}: {mhz} and {}",
            cell.band,
            cell.frequency_mhz
        );
        let widest = if cell.technology == Technology::Lte { 20.0 } else { 100.0 };
        assert!(cell.bandwidth_mhz <= widest && cell.bandwidth_mhz >= 1.4);
        // 12 elements a block, 180 kHz or 360 kHz each, within the channel.
        // TS 38.101-1: bands below 1 GHz at 15 kHz here, the wide one at 30 kHz.
        let spacing_khz = if cell.frequency_mhz > 3000.0 { 30.0 } else { 15.0 };
        let used_mhz = cell.resource_elements * spacing_khz / 1000.0;
        assert!(
            used_mhz <= cell.bandwidth_mhz && used_mhz > 0.85 * cell.bandwidth_mhz,
            "band {}: {used_mhz}",
            cell.band
        );
    }
}

/// Nothing arrives stronger than over free space (ITU-R P.525), fading and the height over the reference aside; and on the way
/// it falls with distance at least as fast.
#[test]
fn no_path_beats_free_space() {
    for mast in &masts() {
        for cell in &mast.cells {
            let stand = |share: f64| Stand {
                east_m: mast.east_m * share,
                north_m: mast.north_m * share,
                height_m: 6.0,
                cover: Cover::Free,
            };
            let mean = |share: f64| {
                let all: Vec<f64> = (0..400)
                    .map(|n| path_gain_db(7, mast, cell, &stand(share), NOON + f64::from(n) * 901.0))
                    .collect();
                all.iter().sum::<f64>() / all.len() as f64
            };
            let free = |share: f64| {
                let km = mast.distance_m(mast.east_m * share, mast.north_m * share) / 1000.0;
                -(20.0 * km.log10() + 20.0 * cell.frequency_mhz.log10() + 32.45)
            };
            // Shadowing is drawn a place at a time, with a spread of 1.5 dB: four of it are allowed.
            assert!(mean(0.0) <= free(0.0) + 6.0, "{} band {}", mast.name, cell.band);
            assert!(
                mean(0.75) - mean(0.0) > free(0.75) - free(0.0) - 9.0,
                "{} band {}",
                mast.name,
                cell.band
            );
        }
    }
}

/// Walls cost more at higher frequencies and more than glass (ITU-R P.2109: entry loss rises with frequency), the same for all
/// masts.
#[test]
fn walls_cost_more_than_glass_and_more_at_high_bands() {
    let all = masts();
    let mast = &all[0];
    let at = |cover| Stand { east_m: 0.0, north_m: 0.0, height_m: 3.0, cover };
    let mut before = 0.0;
    let mut cells: Vec<_> = mast.cells.iter().collect();
    cells.sort_by(|a, b| a.frequency_mhz.total_cmp(&b.frequency_mhz));
    for cell in cells {
        let gain = |cover| path_gain_db(7, mast, cell, &at(cover), NOON);
        let wall = gain(Cover::Free) - gain(Cover::Indoor);
        let glass = gain(Cover::Free) - gain(Cover::Window);
        assert!(wall > glass && glass > 3.0, "band {}: {wall} {glass}", cell.band);
        assert!(wall >= before, "band {}: {wall} after {before}", cell.band);
        before = wall;
    }
}

/// The antenna's directions: a panel gains most ahead, loses all round together what it gains ahead, and takes no power from
/// nowhere: its gain averaged over the circle is below that of the same beam without losses.
#[test]
fn antennas_make_no_power() {
    let around = |gain: &dyn Fn(f64) -> f64| {
        (0..3600).map(|n| 10f64.powf(gain(f64::from(n) / 10.0 - 180.0) / 10.0)).sum::<f64>() / 3600.0
    };
    let panel = around(&|off| panel_gain_dbi(off, 0.0));
    let stock = around(&internal_gain_dbi);
    // In the horizontal cut alone; 10 dBi ahead with 54° by about 67° leaves under 2.2 on average.
    assert!(panel < 2.2, "{panel}");
    assert!(stock < 2.0, "{stock}");
    for off in [10.0, 40.0, 120.0, 180.0] {
        assert!(panel_gain_dbi(off, 0.0) < panel_gain_dbi(0.0, 0.0));
        assert!((panel_gain_dbi(off, 0.0) - panel_gain_dbi(-off, 0.0)).abs() < 1e-9, "left as right");
    }
    assert!(panel_gain_dbi(0.0, 25.0) < panel_gain_dbi(0.0, 5.0), "tilted away it hears less");
    // Skin effect: loss in proportion to the root of frequency, and more of it higher up.
    let rise = (feed_loss_db(3600.0) - 0.6) / (feed_loss_db(900.0) - 0.6);
    assert!((rise - 2.0).abs() < 1e-9, "{rise}");
}

/// A cell's load keeps to its bounds, is quiet at night and busiest at its own hour.
#[test]
fn cells_are_busy_when_people_are_awake() {
    for cell in masts().iter().flat_map(|mast| &mast.cells) {
        let mean = |hour: f64| {
            (0..200).map(|n| load(7, cell, NOON + f64::from(n) * 977.0, hour)).sum::<f64>() / 200.0
        };
        assert!(
            mean(cell.busiest_hour) > mean(4.0) + 0.4 * (cell.load.1 - cell.load.0),
            "band {}",
            cell.band
        );
        for hour in 0..24 {
            let now = load(7, cell, NOON, f64::from(hour));
            assert!((0.03..=0.95).contains(&now), "{now}");
        }
    }
}

/// The ground is one surface: neighbouring points differ by slopes that people farm on.
#[test]
fn the_ground_is_walkable_around_the_house() {
    for step in 0..200 {
        let (east, north) = (f64::from(step % 20) * 10.0 - 100.0, f64::from(step / 20) * 10.0 - 50.0);
        let here = ground_m(7, east, north);
        assert!(here.is_finite());
        for (e, n) in [(1.0, 0.0), (0.0, 1.0)] {
            assert!((ground_m(7, east + e, north + n) - here).abs() < 1.0, "at {east}, {north}");
        }
    }
}

/// Turning the antenna moves every mast by its own bearing: the wanted one is strongest when faced.
#[test]
fn a_mast_is_strongest_when_it_is_faced() {
    let all = masts();
    for (index, mast) in all.iter().enumerate() {
        let bearing = mast.bearing_deg(0.0, 0.0);
        let power = |azimuth: f64| {
            let heard = hear(7, &all, &outside(azimuth), NOON);
            heard.iter().filter(|one| one.mast == index).map(|one| one.rsrp_dbm).fold(f64::MIN, f64::max)
        };
        for off in [60.0, -60.0, 120.0, 180.0] {
            assert!(power(bearing) > power(bearing + off) + 2.0, "{} at {off}", mast.name);
        }
    }
}
