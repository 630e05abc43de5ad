//! The masts of rehearsals.

use crate::channel::hashed;
use crate::world::{B3, B7, Mast, N78, cell};
use open_beacon_core::model::RehearsalKind;

/// What a rehearsal's masts are, their truth hidden in the seed: the wanted one first.
pub fn rehearsal(kind: RehearsalKind, seed: u64) -> Vec<Mast> {
    let bearing_deg = (hashed(seed, 1, 0) * 360.0).floor();
    let mast = |name, turned_deg: f64, distance_m: f64, cells| {
        let bearing = (bearing_deg + turned_deg).to_radians();
        Mast { name, east_m: distance_m * bearing.sin(), north_m: distance_m * bearing.cos(), cells }
    };
    let side = if hashed(seed, 2, 0) < 0.5 { -1.0 } else { 1.0 };
    let quiet = (0.12, 0.20);
    match kind {
        RehearsalKind::CleanMast => {
            let cells =
                vec![cell(&B3, 141, 0x0_1B_0A_01, 20.0, quiet), cell(&N78, 541, 0x1_01B0_A001, 22.0, quiet)];
            vec![mast("Fyrhaug", 0.0, 4200.0, cells)]
        }
        RehearsalKind::Interferer => {
            let wanted = vec![cell(&B3, 142, 0x0_1B_0B_01, 19.0, quiet)];
            // On the same channel, farther and busy: heard at the beam's flank.
            let other = vec![cell(&B3, 342, 0x0_1B_0B_11, 19.0, (0.75, 0.95))];
            vec![mast("Fyrhaug", 0.0, 4200.0, wanted), mast("Tverrberg", side * 38.0, 6100.0, other)]
        }
        RehearsalKind::Hopping => {
            let one = vec![cell(&B3, 143, 0x0_1B_0C_01, 19.0, quiet)];
            let other = vec![cell(&B7, 343, 0x0_1B_0C_11, 14.0, quiet)];
            vec![mast("Fyrhaug", 0.0, 4200.0, one), mast("Tverrberg", side * 75.0, 4400.0, other)]
        }
    }
}
