//! The test plan: order, number and hours of sittings; what was changed between two setups.

use crate::samples::*;
use chrono::{DateTime, Duration, NaiveDate, TimeZone, Timelike, Utc};
use chrono_tz::Europe::Oslo;
use fastrand::Rng;
use open_beacon_core::geo::GeoPoint;
use open_beacon_core::geo::sun::is_dark;
use open_beacon_core::judge::{DayPart, EVENING_HOURS, WorkRow};
use open_beacon_core::model::*;
use open_beacon_core::protocol::*;
use open_beacon_core::stats::{COVERAGE, SittingMeans};
use open_beacon_core::words;
use proptest::prelude::*;

const VALLEY: GeoPoint = GeoPoint { latitude_deg: 61.3, longitude_deg: 9.1 };

pub fn setup(n: u128, at: &Position, antenna: AntennaSwitch) -> Setup {
    Setup {
        id: SetupId(id(n)),
        position_id: at.id,
        made_from: None,
        origin: SetupOrigin::ByHand,
        spec: SetupSpec::on(antenna),
        created_at: morning(),
        archived_at: None,
    }
}

fn row(setup: &Setup, hours: &[u8], down_mbps: Option<f64>) -> WorkRow {
    WorkRow {
        setup_id: setup.id,
        label: String::new(),
        in_place: false,
        read: true,
        tests: 3,
        doubted: 0,
        sittings: 1,
        hours: hours.to_vec(),
        down_mbps,
        up_mbps: down_mbps.map(|down| down / 10.0),
        last_at: None,
        recorded_at: None,
        behind: false,
        settled: false,
        missing: Vec::new(),
    }
}

pub fn speed_test() -> SpeedTestSettings {
    SpeedTestSettings {
        download_url: "http://test.example/down".into(),
        upload_url: Some("http://test.example/up".into()),
        latency_url: None,
        connections: 4,
        warm_up_s: 2.0,
        phase_s: 8.0,
        most_mb: None,
        precise_to: None,
        page_part_url: None,
    }
}

/// A house with a sill inside and so many gables outside, each with a kit of its own or all with one.
struct House {
    positions: Vec<Position>,
    setups: Vec<Setup>,
    rows: Vec<WorkRow>,
    test: SpeedTestSettings,
}

impl House {
    fn new(gables: u128, one_kit: bool, hours: &[u8]) -> Self {
        let mut positions = vec![plain_position(10, "Sill", Mount::Window)];
        positions.extend((0..gables).map(|n| plain_position(11 + n, "Gable", Mount::Gable)));
        let antenna = |n: usize| if n == 0 { AntennaSwitch::Internal } else { AntennaSwitch::External };
        let mut setups: Vec<Setup> =
            positions.iter().enumerate().map(|(n, at)| setup(20 + n as u128, at, antenna(n))).collect();
        for (n, setup) in setups.iter_mut().enumerate().skip(1) {
            setup.spec.kit_id = Some(KitId(id(if one_kit { 30 } else { 30 + n as u128 })));
        }
        let rows = setups.iter().map(|setup| row(setup, hours, Some(100.0))).collect();
        Self { positions, setups, rows, test: speed_test() }
    }

    fn contenders(&self) -> Vec<Contender<'_>> {
        let all = self.positions.iter().zip(&self.setups).zip(&self.rows);
        all.map(|((position, setup), row)| Contender {
            built: Built { setup, position },
            row,
            return_by: None,
        })
        .collect()
    }

    fn input<'a>(&'a self, contenders: &'a [Contender<'a>], now: DateTime<Utc>) -> PlanInput<'a> {
        PlanInput {
            contenders,
            stands: Some(self.setups[0].id),
            order: TestOrder::ThereAndBack,
            difference: 0.2,
            scatter: None,
            sittings_done: 0,
            speed_test: &self.test,
            cap_mb: None,
            used_mb: 0.0,
            place: Some(VALLEY),
            zone: Oslo,
            now,
        }
    }
}

fn at(month: u32, day: u32, hour: u32) -> DateTime<Utc> {
    Oslo.with_ymd_and_hms(2026, month, day, hour, 0, 0).unwrap().with_timezone(&Utc)
}

#[test]
fn what_was_changed_is_named() {
    let (sill, gable) = (plain_position(1, "Sill", Mount::Window), plain_position(2, "Gable", Mount::Gable));
    let before = setup(1, &gable, AntennaSwitch::External);
    let change = |change: fn(&mut SetupSpec)| {
        let mut after = before.clone();
        let mut first = before.clone();
        first.spec.azimuth_deg = Some(359.5);
        first.spec.tilt_deg = Some(0.0);
        first.spec.polarisation = Some(Polarisation::Slant);
        first.spec.kit_id = Some(KitId(id(1)));
        first.spec.height_above_ground_m = Some(6.0);
        first.spec.gateway_place = "Sill ".into();
        first.spec.ports = vec![PortLink { lead: 1, port: "1".into() }];
        after.spec = first.spec.clone();
        change(&mut after.spec);
        changes(Built { setup: &first, position: &gable }, Built { setup: &after, position: &gable })
    };
    assert_eq!(change(|_| ()), []);
    assert_eq!(change(|spec| spec.azimuth_deg = Some(0.2)), [], "within what a compass tells");
    assert_eq!(change(|spec| spec.azimuth_deg = Some(3.0)), [ChangedPart::Bearing]);
    assert_eq!(change(|spec| spec.tilt_deg = Some(5.0)), [ChangedPart::Tilt]);
    assert_eq!(change(|spec| spec.height_above_ground_m = Some(7.0)), [ChangedPart::Height]);
    assert_eq!(change(|spec| spec.kit_id = Some(KitId(id(2)))), [ChangedPart::Kit]);
    assert_eq!(change(|spec| spec.kit_id = None), [], "not known is not another one");
    assert_eq!(change(|spec| spec.lock.nr = vec![78]), [ChangedPart::Lock]);
    assert_eq!(change(|spec| spec.ports[0].port = "2".into()), [ChangedPart::Ports]);
    assert_eq!(change(|spec| spec.gateway_place = "Sill".into()), []);
    assert_eq!(change(|spec| spec.gateway_place = "Attic".into()), [ChangedPart::GatewayPlace]);
    let inside = setup(2, &sill, AntennaSwitch::Internal);
    let all = changes(Built { setup: &inside, position: &sill }, Built { setup: &before, position: &gable });
    assert_eq!(all, [ChangedPart::Position, ChangedPart::Antenna]);
    assert_eq!(words::protocol::changes("Sill", &[]), None);
    assert_eq!(words::protocol::changes("Sill", &all[..1]).unwrap(), "Only the position differs from Sill.");
    assert_eq!(
        words::protocol::changes("Sill", &all).unwrap(),
        "Differs from Sill in position and internal or external antennas. Which of these two changes made a difference cannot be told."
    );
    assert_eq!(
        words::protocol::changes_in_short(&all).unwrap(),
        "Differs in position and internal or external antennas."
    );
    assert_eq!(
        words::timeline::changed_since("Sill", &all).unwrap(),
        "Since Sill two things were changed at once: position and internal or external antennas."
    );
}

/// An antenna that is up stays up while others are tested: one kit has to be carried about, two have not.
#[test]
fn climbs_are_counted_by_where_the_antennas_stand() {
    let climbs = |house: &House, order: TestOrder| {
        let contenders = house.contenders();
        let input = PlanInput { order, ..house.input(&contenders, at(6, 1, 8)) };
        plan(&input).unwrap().climbs_a_sitting
    };
    let one_gable = House::new(1, true, &[9]);
    // Up once; after that the gateway is only switched.
    assert_eq!(climbs(&one_gable, TestOrder::ThereAndBack), 1);
    let one_kit = House::new(2, true, &[9]);
    // Sill, gable, other gable, gable: up, over, and back.
    assert_eq!(climbs(&one_kit, TestOrder::ThereAndBack), 3);
    assert_eq!(climbs(&one_kit, TestOrder::OneWay), 2);
    assert_eq!(climbs(&House::new(2, false, &[9]), TestOrder::ThereAndBack), 2, "each kit up once");
    // A lock or other leads need no ladder.
    let mut locked = House::new(2, true, &[9]);
    locked.positions[2] = locked.positions[1].clone();
    locked.setups[2].position_id = locked.positions[1].id;
    locked.setups[2].spec.lock.nr = vec![78];
    assert_eq!(climbs(&locked, TestOrder::ThereAndBack), 1);
}

/// Stops by which the order is judged: each setup's tests have the same middle, so that a load that rises evenly favours none.
fn middles(stops: &[PlanStop], setups: usize) -> Vec<f64> {
    let mut at = 0.0;
    let mut sums = vec![(0.0, 0.0); setups];
    for stop in stops {
        for _ in 0..stop.tests {
            sums[stop.at].0 += at;
            sums[stop.at].1 += 1.0;
            at += 1.0;
        }
    }
    sums.into_iter().map(|(sum, n)| sum / n).collect()
}

#[test]
fn there_and_back_cancels_a_steady_drift_and_one_way_two_by_two() {
    for setups in 2..=MOST_CONTENDERS {
        let way: Vec<usize> = (0..setups).collect();
        let both = middles(&stops(&way, TestOrder::ThereAndBack), setups);
        assert!(both.iter().all(|middle| (middle - both[0]).abs() < 1e-9), "{both:?}");
        let there = middles(&stops(&way, TestOrder::OneWay), setups);
        let back: Vec<usize> = way.iter().rev().copied().collect();
        let back = middles(&stops(&back, TestOrder::OneWay), setups);
        let sums: Vec<f64> = there.iter().zip(&back).map(|(a, b)| a + b).collect();
        assert!(sums.iter().all(|sum| (sum - sums[0]).abs() < 1e-9), "{sums:?}");
        assert!((there[0] - there[1]).abs() > 1.0, "one way alone does not");
    }
}

/// Sittings of two setups for a paired t test of two sides at 90 % with a power of 80 %: statsmodels 0.15, TTestPower, of pairs whose
/// difference scatters by √2 times the setups' own.
#[test]
fn sittings_are_as_many_as_a_reference_library_says() {
    let house = House::new(1, true, &[]);
    let contenders = house.contenders();
    for (difference, scatter, needed) in
        [(0.2, 0.1, 6), (0.3, 0.1, 4), (0.5, 0.1, 3), (0.3, 0.15, 6), (0.5, 0.15, 4), (0.5, 0.25, 7)]
    {
        let input = PlanInput { difference, scatter: Some(scatter), ..house.input(&contenders, at(6, 1, 8)) };
        let planned = plan(&input).unwrap().sittings_needed;
        assert!(planned.abs_diff(needed) <= 1, "{difference} {scatter}: {planned} for {needed}");
    }
    // More than anyone makes: what they would show is said, and that takes no more.
    let input = PlanInput { difference: 0.1, scatter: Some(0.15), ..house.input(&contenders, at(6, 1, 8)) };
    let found = plan(&input).unwrap();
    assert_eq!(found.sittings_needed, 8);
    assert!((0.2..=0.3).contains(&found.difference_shown.unwrap()), "{:?}", found.difference_shown);
}

/// A difference that is there is found as often as was planned, where hours are calm or busy and scatter is not normal: another model
/// than the plan's.
#[test]
fn what_is_planned_finds_the_difference() {
    let house = House::new(1, true, &[]);
    let contenders = house.contenders();
    let mut rng = Rng::with_seed(18);
    for (difference, scatter) in [(0.3_f64, 0.1_f64), (0.5, 0.15), (0.5, 0.25)] {
        let input = PlanInput { difference, scatter: Some(scatter), ..house.input(&contenders, at(6, 1, 8)) };
        let sittings = plan(&input).unwrap().sittings_needed;
        // Uniform of that standard deviation.
        let off = |rng: &mut Rng| (rng.f64() - 0.5) * 12.0_f64.sqrt() * scatter;
        let mut found = 0;
        const TRIES: usize = 400;
        for _ in 0..TRIES {
            let mut sides = [Vec::new(), Vec::new()];
            for sitting in 0..sittings {
                let load = if rng.f64() < 0.4 { 0.4 } else { 1.0 + 0.2 * rng.f64() };
                sides[0].push((sitting, 100.0 * load * off(&mut rng).exp()));
                sides[1].push((sitting, 100.0 * load * (1.0 + difference) * off(&mut rng).exp()));
            }
            let [base, better] = sides.map(|side| SittingMeans::of(&side).unwrap());
            let estimate = better.ratio_to(&base, COVERAGE).estimate.unwrap();
            found += usize::from(estimate.interval.low > 1.0);
        }
        let share = found as f64 / TRIES as f64;
        assert!(share >= 0.72, "{difference} {scatter} in {sittings}: found in {share}");
    }
}

#[test]
fn scatter_is_told_from_shared_sittings_only() {
    let mut rng = Rng::with_seed(3);
    let mut normal = |sd: f64| sd * (0..12).map(|_| rng.f64()).sum::<f64>() - sd * 6.0;
    let mut means = Vec::new();
    for sitting in 0..40_u128 {
        let hour = normal(0.5);
        for setup in 1..=3_u128 {
            means.push((SetupId(id(setup)), SittingId(id(100 + sitting)), setup as f64 + hour + normal(0.2)));
        }
    }
    let found = sitting_scatter(&means).unwrap();
    assert!((0.17..0.23).contains(&found), "{found}");
    // Sittings of one setup alone say nothing of it.
    let apart: Vec<_> =
        means.iter().enumerate().filter(|(n, _)| n % 3 == (n / 3) % 3).map(|(_, one)| *one).collect();
    assert_eq!(sitting_scatter(&apart), None);
    assert_eq!(sitting_scatter(&means[..4]), None, "too few to tell");
    assert_eq!(sitting_scatter(&[]), None);
}

#[test]
fn in_winter_nobody_is_sent_up_in_the_dark() {
    let house = House::new(1, true, &[]);
    let contenders = house.contenders();
    let found = plan(&house.input(&contenders, at(12, 1, 8))).unwrap();
    let whole = |visit: &&PlannedVisit| visit.kind == VisitKind::Whole;
    assert_eq!(found.visits.iter().filter(whole).count(), found.sittings_needed);
    assert!(
        found.visits.iter().filter(whole).all(|visit| visit.part != DayPart::Evening || visit.climbs == 0)
    );
    let evenings: Vec<&PlannedVisit> =
        found.visits.iter().filter(|visit| visit.kind == VisitKind::EveningOfOne).collect();
    // Once the antenna is up the evening needs no climb, whichever of the two is tested.
    assert!(found.visits.iter().any(|visit| visit.part == DayPart::Evening));
    for visit in evenings {
        assert!(words::protocol::visit(visit).contains("It is dark then"));
    }
    // In June the evening is light.
    let june = plan(&house.input(&contenders, at(6, 1, 8))).unwrap();
    assert!(june.visits.iter().all(|visit| visit.kind == VisitKind::Whole));
    assert!(june.visits.iter().any(|visit| visit.part == DayPart::Evening));
}

#[test]
fn cap_deadline_and_length_are_told() {
    let house = House::new(1, true, &[9, 14, 20]);
    let mut contenders = house.contenders();
    contenders[1].return_by = NaiveDate::from_ymd_opt(2026, 6, 2);
    let input = PlanInput { cap_mb: Some(5000.0), used_mb: 3000.0, ..house.input(&contenders, at(6, 1, 8)) };
    let found = plan(&input).unwrap();
    // Six sittings of 8 tests, each 10 s of 100 Mbit/s down and of 10 up.
    assert_eq!((found.sittings_needed, found.tests_a_sitting), (6, 8));
    assert!((found.megabytes - 48.0 * 137.5).abs() < 1e-6);
    assert!((found.over_cap_mb.unwrap() - (3000.0 + 6600.0 - 5000.0)).abs() < 1e-6);
    assert!(found.too_late, "two a day from the first of June are done on the third");
    assert!(!found.too_long);
    let said =
        words::protocol::plan_reasons(&found, TestOrder::ThereAndBack, Some(5000.0), 3000.0).join("\n");
    let said = said.replace('\u{202f}', " ");
    for part in [
        "after six sittings of all setups",
        "That is 4.6 GB too much",
        "goes back by 2 June, before the last visit",
        "only in daylight",
    ] {
        assert!(said.contains(part), "{part}: {said}");
    }
    let title = words::protocol::plan_title(&found).replace('\u{202f}', " ");
    assert!(title.starts_with("Still to do: six more sittings, about"), "{title}");
    let done = plan(&PlanInput { sittings_done: 6, ..input }).unwrap();
    assert_eq!(done.visits, []);
    assert!(words::protocol::plan_title(&done).starts_with("All sittings of this plan are done."));
    // Six kits outside take longer than a sitting.
    let many = House::new(5, true, &[]);
    let contenders = many.contenders();
    assert!(plan(&many.input(&contenders, at(6, 1, 8))).unwrap().too_long);
    let alone = &contenders[..1];
    assert_eq!(plan(&many.input(alone, at(6, 1, 8))), None);
}

#[test]
fn what_comes_next_in_a_sitting_follows_the_stops() {
    let stops = stops(&[0, 1], TestOrder::ThereAndBack);
    let next = |tests: &[usize]| {
        let found = progress(&stops, &tests.iter().map(|at| Some(*at)).collect::<Vec<_>>());
        (found.next_stop, found.next.map(|stop| (stop.at, stop.tests)), found.beside)
    };
    assert_eq!(next(&[]), (Some(0), Some((0, 2)), 0));
    assert_eq!(next(&[0]), (Some(0), Some((0, 1)), 0));
    assert_eq!(next(&[0, 0, 1]), (Some(1), Some((1, 3)), 0));
    assert_eq!(next(&[0, 0, 1, 1, 1, 1]), (Some(2), Some((0, 2)), 0));
    assert_eq!(next(&[0, 0, 1, 1, 1, 1, 0, 0]), (None, None, 0));
    // One test too many, and a setup of no plan.
    assert_eq!(next(&[0, 0, 1, 1, 1, 1, 0, 0, 0]).2, 1);
    assert_eq!(progress(&stops, &[None]).beside, 1);
    // Who goes up early leaves a stop behind.
    assert_eq!(next(&[0, 1]), (Some(1), Some((1, 3)), 0));
    let found = progress(&stops, &[Some(0), Some(0), Some(1)]);
    let said = words::protocol::in_sitting(&found, &["Sill".into(), "Gable".into()], 3);
    assert_eq!(said, "Three tests so far. Stop 2 of 3: three tests at Gable.");
}

/// A sitting that is opened by hand takes every test until it is closed, for two hours at the most; closing it does not make another
/// hour of the next minutes.
#[test]
fn a_sitting_opened_by_hand_holds_a_visit_together() {
    let mut sitting = Sitting { by_hand: true, ..Sitting::at(SittingId(id(1)), SiteId(id(1)), morning()) };
    let after = |minutes: i64| morning() + Duration::minutes(minutes);
    assert!(sitting.is_open(after(119)) && !sitting.is_open(after(121)));
    assert!(sitting.takes(after(90)), "no test for an hour and a half: the ladder took long");
    assert!(!sitting.takes(after(121)));
    sitting.ended_at = after(40);
    sitting.closed_at = Some(after(45));
    assert!(!sitting.is_open(after(46)));
    assert!(sitting.takes(after(60)), "minutes after it the hour is the same");
    assert!(!sitting.takes(after(71)));
    let by_time = Sitting { by_hand: false, closed_at: None, ..sitting };
    assert!(!by_time.takes(after(90)) && !by_time.is_open(morning()));
}

proptest! {
    /// Whatever the day: visits come after now and in order, two whole ones a day at the most, nobody climbs in the dark, as many whole
    /// ones as are needed, and every setup is tested in the evening.
    #[test]
    fn visits_can_be_made(
        day in 0_i64..365, hour in 0_i64..24, gables in 1_u128..4, one_kit: bool, one_way: bool, done in 0_usize..4,
        known in prop::collection::vec(0_u8..24, 0..3),
    ) {
        let house = House::new(gables, one_kit, &known);
        let contenders = house.contenders();
        let now = at(1, 1, 0) + Duration::hours(24 * day + hour);
        let order = if one_way { TestOrder::OneWay } else { TestOrder::ThereAndBack };
        let input = PlanInput { order, sittings_done: done, ..house.input(&contenders, now) };
        let found = plan(&input).unwrap();
        let whole = found.visits.iter().filter(|visit| visit.kind == VisitKind::Whole);
        prop_assert!(whole.clone().count() >= found.sittings_needed.saturating_sub(done));
        let mut last = now;
        for visit in &found.visits {
            prop_assert!(visit.starts_at > last);
            last = visit.starts_at;
            let ends_at = visit.starts_at + Duration::seconds((visit.minutes * 60.0) as i64);
            let dark = is_dark(VALLEY, visit.starts_at) || is_dark(VALLEY, ends_at);
            prop_assert!(visit.kind == VisitKind::EveningOfOne || visit.climbs == 0 || !dark);
            prop_assert!(!visit.stops.is_empty() && visit.minutes > 0.0 && visit.megabytes > 0.0);
            if visit.kind == VisitKind::Whole {
                for at in 0..contenders.len() {
                    prop_assert!(visit.stops.iter().any(|stop| stop.at == at));
                }
            }
        }
        let local = |visit: &PlannedVisit| visit.starts_at.with_timezone(&Oslo);
        for visit in whole.clone() {
            let of_day = whole.clone().filter(|other| local(other).date_naive() == local(visit).date_naive());
            prop_assert!(of_day.count() <= 2);
        }
        if !known.iter().any(|hour| EVENING_HOURS.contains(hour)) {
            for at in 0..contenders.len() {
                let evening = |visit: &&PlannedVisit| EVENING_HOURS.contains(&(local(visit).hour() as u8));
                prop_assert!(found.visits.iter().filter(evening).any(|visit| visit.stops.iter().any(|stop| stop.at == at)));
            }
        }
    }
}

#[test]
fn the_baseline_the_untried_and_the_fastest_are_compared() {
    let mut house = House::new(6, false, &[9]);
    for (n, row) in house.rows.iter_mut().enumerate() {
        row.down_mbps = Some(10.0 * (n + 1) as f64);
    }
    house.rows[2].tests = 0;
    house.rows[6].behind = true;
    let all = house.contenders();
    let ids = |chosen: &[SetupId]| -> Vec<usize> {
        let found = contenders(&all, chosen, Some(house.setups[0].id));
        found
            .iter()
            .map(|one| house.setups.iter().position(|setup| setup.id == one.row.setup_id).unwrap())
            .collect()
    };
    assert_eq!(ids(&[]), [0, 2, 5, 4], "what is clearly behind is left out");
    assert_eq!(ids(&[house.setups[6].id, house.setups[1].id]), [1, 6], "unless it is asked for");
    let every: Vec<SetupId> = house.setups.iter().map(|setup| setup.id).collect();
    assert_eq!(ids(&every).len(), MOST_CONTENDERS);
    assert_eq!((words::protocol::letter(0), words::protocol::letter(5)), ("A".into(), "F".into()));
}

/// A gateway with two ports for n78 and B3: what it hears of B20 it hears with its own antennas.
#[test]
fn bands_without_a_lead_stay_inside() {
    use crate::kits::{catalogue, lte, nr, sound};
    use open_beacon_core::hardware::resolve::Resolved;
    let (catalogue, kit) = (catalogue(), sound());
    let resolved = Resolved::new(&kit, &catalogue);
    let (_, gateway) = resolved.gateway.unwrap();
    let heard = [nr(78), lte(3), lte(20)];
    let inside = inner_bands(&resolved, &heard);
    for band in heard {
        // By hand: ports that carry the band and have a lead, against the gateway's layers.
        let leads = resolved.lead_ports().into_iter().flatten().filter(|at| {
            let port = &gateway.ports[*at];
            port.bands.is_empty() || port.bands.contains(&band)
        });
        assert_eq!(inside.contains(&band), (leads.count() as u8) < gateway.layers_on(band), "{band:?}");
    }
    // Without an antenna all is inside, and Baseline finds the spot.
    let alone = KitSpec { antenna: None, chain: Vec::new(), ..kit.clone() };
    assert!(inner_bands(&Resolved::new(&alone, &catalogue), &heard).is_empty());
}

#[test]
fn a_gateway_is_turned_by_quarters_with_the_antenna_left_alone() {
    let spec = SetupSpec {
        azimuth_deg: Some(143.0),
        gateway_place: "Kitchen".into(),
        gateway_azimuth_deg: Some(300.0),
        ..SetupSpec::on(AntennaSwitch::External)
    };
    let setup = |n: u128, spec: SetupSpec| Setup {
        id: SetupId(id(n)),
        position_id: PositionId(id(1)),
        made_from: None,
        origin: SetupOrigin::ByHand,
        spec,
        created_at: morning(),
        archived_at: None,
    };
    let base = setup(1, spec.clone());
    let turns = gateway_turns(&base, None, &[&base]);
    let faces =
        |turns: &[SetupSpec]| turns.iter().filter_map(|one| one.gateway_azimuth_deg).collect::<Vec<_>>();
    assert_eq!(faces(&turns), [30.0, 120.0, 210.0]);
    assert!(turns.iter().all(|one| (one.azimuth_deg, &one.gateway_place[..]) == (Some(143.0), "Kitchen")));
    // One that is there already is not made again; at another place every way is new.
    let there = setup(2, SetupSpec { name: "Turned".into(), ..turns[1].clone() });
    assert_eq!(faces(&gateway_turns(&base, None, &[&base, &there])), [30.0, 210.0]);
    assert_eq!(faces(&gateway_turns(&base, Some(" Hall "), &[&base, &there])), [300.0, 30.0, 120.0, 210.0]);
    assert_eq!(gateway_turns(&base, Some("Hall"), &[])[0].gateway_place, "Hall");
    // Where it is not known which way it faces, all four are new.
    let unknown = setup(3, SetupSpec { gateway_azimuth_deg: None, ..spec.clone() });
    assert_eq!(faces(&gateway_turns(&unknown, None, &[&unknown])), [0.0, 90.0, 180.0, 270.0]);
    let inner = setup(4, SetupSpec { antenna: AntennaSwitch::Internal, ..spec });
    assert!(gateway_turns(&inner, None, &[]).is_empty());
    let position = plain_position(1, "Gable", Mount::Wall);
    let other = setup(5, turns[0].clone());
    let built = |setup| Built { setup, position: &position };
    assert_eq!(changes(built(&base), built(&other)), [ChangedPart::GatewayPlace]);
    let name = words::gateway_place::name(&base.spec, &turns[0]);
    assert_eq!(name, "143°\u{202f}T, gateway facing 30°\u{202f}T");
    assert!(words::gateway_place::detail(4).contains(". Four ways that it can face"));
}
