//! Kit as a table: how the catalogue ships, and how installers bring their own.

use busy_hen_catalogue::kit::all;
use busy_hen_catalogue::table::{read_kit, write_kit};
use busy_hen_units::MbitPerSec;

#[test]
fn what_is_written_is_read_as_the_same() {
    let text = write_kit(all().iter().map(AsRef::as_ref)).unwrap();
    let back = read_kit(&text).unwrap();
    assert_eq!(back.len(), all().len());
    for (own, read) in all().iter().zip(back) {
        assert_eq!(**own, read);
    }
}

#[test]
fn what_a_spreadsheet_would_take_for_a_formula_is_read_as_it_was() {
    let mut kit = (*all()[0]).clone();
    kit.facts.known_here = "=HYPERLINK(0)".into();
    let text = write_kit([&kit]).unwrap();
    assert!(text.contains("'=HYPERLINK(0)"), "{text}");
    assert_eq!(read_kit(&text).unwrap(), [kit]);
}

#[test]
fn what_is_wrong_is_told_with_its_line_and_column() {
    let head = "name,modes,radios,uplink_port_mbps,lan_port_mbps,packs,functions,in_box\n";
    let wrong = |line: &str| {
        let faults = read_kit(&format!("{head}{line}\n")).unwrap_err();
        faults.list().iter().map(|fault| fault.message.clone()).collect::<Vec<_>>().join(" ")
    };
    for (line, told) in [
        (",router,,1000,1000,,,", "Line 2, name: this cell is needed."),
        ("x,ruter,,1000,1000,,,", "“ruter” is not known here; use one of router"),
        ("x,router,5 ax 4,1000,1000,,,", "“5 ax 4” is too short"),
        ("x,router,5 ax four 160 @36,1000,1000,,,", "can't be read; write a radio as"),
        ("x,router,,fast,1000,,,", "Line 2, uplink_port_mbps: “fast” can’t be read"),
        ("x,router,,1000,1000,two,,", "write number and price as 2=110"),
        ("x,router,,1000,1000,,guest_network:maybe,", "“maybe” is not known here"),
        ("x,router,,1000,1000,,,cable long", "“cable long” is not known here"),
    ] {
        assert!(wrong(line).contains(told), "{line}: {}", wrong(line));
    }
    let unknown = read_kit("name,colour\nx,red\n").unwrap_err();
    assert!(unknown.list().iter().any(|fault| fault.message.contains("“colour” is no column")));
    let missing = read_kit("name,modes\nx,router\n").unwrap_err();
    assert!(missing.list().iter().any(|fault| fault.message.contains("“uplink_port_mbps” is missing")));
}

#[test]
fn a_table_of_a_country_with_a_decimal_comma_is_read() {
    let text = "name;modes;radios;uplink_port_mbps;lan_port_mbps;price\nLoft node;mesh_node;\"5 ax 2 80 @36\";1000;1000;89,50\n";
    let kit = &read_kit(text).unwrap()[0];
    assert_eq!((kit.key.as_str(), kit.facts.price), ("own_loft_node", Some(89.5)));
}

#[test]
fn thousands_decimals_and_units_are_read_as_meant_and_doubt_is_refused() {
    let read = |parted: &str, port: &str, price: &str| {
        let heads = "name,modes,radios,uplink_port_mbps,lan_port_mbps,price".replace(',', parted);
        let cells = ["x", "mesh_node", "5 ax 2 80 @36", port, "1000", price].map(|own| format!("\"{own}\""));
        read_kit(&format!("{heads}\n{}\n", cells.join(parted)))
    };
    let price = |parted, port, price| read(parted, port, price).unwrap()[0].facts.price;
    assert_eq!(price(",", "2,500", "£1,089.50"), Some(1089.5));
    assert_eq!(read(",", "2.5 Gb/s", "1,000").unwrap()[0].uplink_port_mbps, MbitPerSec::new(2500.0));
    assert_eq!(price(",", "1000", "1,000"), Some(1000.0), "it was 1 once");
    assert_eq!(price(";", "2.500", "1.089,50 €"), Some(1089.5));
    for (parted, price) in [(",", "89,50"), (";", "89.50"), (",", "about 90")] {
        let told = read(parted, "1000", price).unwrap_err();
        assert!(told.list()[0].message.contains(&format!("“{price}”")), "{told}");
    }
}
