use coldstore::alarm::Watch;
use coldstore::sensor::Reading;

#[test]
fn the_third_warm_reading_raises_the_alarm() {
    let mut watch = Watch::default();
    let warm = Reading { freezer: 17, hundredths: -1_400 };
    assert_eq!(watch.note(&warm), None);
    assert_eq!(watch.note(&warm), None);
    assert!(watch.note(&warm).is_some());
}
