//! Where the sun stands.

use open_beacon_domain::geo::GeoPoint;
use open_beacon_domain::geo::sun::sun_elevation_deg;

/// Elevations by the NREL solar position algorithm (Reda and Andreas, NREL/TP-560-34302) as pvlib 0.16.1 computes it, without
/// refraction.
#[test]
fn the_sun_stands_where_a_reference_library_has_it() {
    let times = [
        "2026-01-15T08:00:00Z",
        "2026-03-20T17:30:00Z",
        "2026-06-21T12:00:00Z",
        "2026-06-21T22:30:00Z",
        "2026-11-28T15:00:00Z",
        "2030-12-21T10:00:00Z",
    ];
    let places: [(f64, f64, [f64; 6]); 4] = [
        (61.3, 9.1, [-2.7303, 0.1535, 51.6714, -4.526, -4.4073, 3.6752]),
        (-33.9, 18.4, [49.325, -7.5361, 30.1724, -78.7965, 30.8378, 75.7196]),
        (0.0, -78.5, [-46.3322, 87.8417, 10.1219, 10.5176, 53.3599, -16.4775]),
        (69.6, 18.9, [-5.8139, -3.278, 42.5448, 3.0808, -12.3748, -3.3494]),
    ];
    for (latitude_deg, longitude_deg, elevations) in places {
        let place = GeoPoint { latitude_deg, longitude_deg };
        for (time, elevation) in times.iter().zip(elevations) {
            let found = sun_elevation_deg(place, time.parse().unwrap());
            assert!((found - elevation).abs() < 0.03, "{latitude_deg} {time}: {found} for {elevation}");
        }
    }
}
