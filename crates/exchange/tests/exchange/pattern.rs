use open_beacon_exchange::read_pattern;

fn lines(of: impl Fn(i32) -> String) -> String {
    (0..12).map(|step| of(step * 30)).collect::<Vec<_>>().join("\n")
}

#[test]
fn patterns_in_several_spellings_read_alike() {
    let plain = lines(|angle| format!("{angle},{}", -(angle.min(360 - angle)) / 10));
    let german =
        format!("Winkel;Gewinn\n{}", lines(|angle| format!("{angle};{},0", 9 - angle.min(360 - angle) / 10)));
    let (plain, german) =
        (read_pattern(&plain).unwrap_or_default(), read_pattern(&german).unwrap_or_default());
    assert_eq!(plain, german);
    assert_eq!((plain[0].off_deg, plain[11].off_deg), (-150.0, 180.0));
    assert_eq!(plain[11].below_db, 18.0);
}

#[test]
fn what_cannot_be_read_is_told_by_its_line() {
    let broken = lines(|angle| if angle == 60 { "60,oops".into() } else { format!("{angle},0") });
    let problems = read_pattern(&broken).unwrap_err();
    assert_eq!(problems.iter().map(|one| one.line).collect::<Vec<_>>(), [Some(3)]);
    assert!(read_pattern("0,0\n90,-3").is_err());
    assert!(read_pattern("").is_err());
}

proptest::proptest! {
    /// Whatever is pasted: no panic, and what is read is a pattern with its highest gain in it.
    #[test]
    fn any_text_is_read_or_refused(text in "[-0-9.,;\\t a-z\\n−]{0,400}") {
        if let Ok(points) = read_pattern(&text) {
            proptest::prop_assert!(points.len() >= 8);
            proptest::prop_assert!(points.iter().all(|point| point.below_db >= 0.0 && (-180.0..=180.0).contains(&point.off_deg)));
            proptest::prop_assert!(points.iter().any(|point| point.below_db == 0.0));
            proptest::prop_assert!(points.is_sorted_by(|a, b| a.off_deg <= b.off_deg));
        }
    }
}
