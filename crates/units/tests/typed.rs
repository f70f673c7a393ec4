//! A table of spellings in three countries: each is read as the number meant, asked about, or refused. How the countries write numbers is that of
//! Unicode CLDR 48 (number symbols of en-GB, de-DE and fr-FR).
#![allow(clippy::unwrap_used)]

use busy_hen_units::typed::{Decimals, Quantity, Read, Style, has_unit, read, read_cell};

fn summed(typed: &str, of: Quantity, style: Style) -> String {
    match read(typed, of, style) {
        Ok(Read::Value(value)) => value.to_string(),
        Ok(Read::Unclear(choices)) => {
            let values: Vec<String> = choices.iter().map(|own| own.value.to_string()).collect();
            format!("?{}", values.join("|"))
        }
        Err(_) => "!".into(),
    }
}

#[test]
fn each_spelling_is_read_as_meant_asked_about_or_refused() {
    let mut wrong = Vec::new();
    let mut count = 0;
    for line in include_str!("spellings.csv").lines().skip(1) {
        let [typed, of, gb, de, fr] = line.split(';').collect::<Vec<_>>()[..] else { panic!("{line}") };
        let of: Quantity = serde_json::from_value(of.into()).unwrap();
        for (country, style, meant) in [("GB", Style::POINT, gb), ("DE", Style::COMMA, de), ("FR", Style::SPACED, fr)] {
            let told = summed(typed, of, style);
            if told != meant {
                wrong.push(format!("{country}: “{typed}” is {told}, not {meant}"));
            }
        }
        count += 1;
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
    assert!(count >= 60);
}

#[test]
fn what_is_chosen_is_read_without_a_further_question() {
    for style in [Style::POINT, Style::COMMA, Style::SPACED, Style::IN_TWOS] {
        for typed in ["1,5", "1.5", "84,5", "1.000", "2 MB/s", "12,3456", "2,5 GB/s"] {
            let Ok(Read::Unclear(choices)) = read(typed, Quantity::Speed, style) else { continue };
            for choice in choices {
                assert_eq!(
                    read(&choice.text, Quantity::Speed, style),
                    Ok(Read::Value(choice.value)),
                    "{typed}, {style:?}"
                );
            }
        }
    }
}

#[test]
fn lakhs_are_read_where_they_are_written() {
    assert_eq!(summed("12,34,567", Quantity::Money, Style::IN_TWOS), "1234567");
    assert_eq!(summed("1,00,000", Quantity::Money, Style::IN_TWOS), "100000");
}

#[test]
fn a_refusal_names_what_was_typed_and_an_example_in_the_style_of_the_home() {
    let words = |style| read("fast", Quantity::Speed, style).unwrap_err().0;
    assert!(words(Style::POINT).contains("“fast”") && words(Style::POINT).contains("84.5"));
    assert!(words(Style::COMMA).contains("84,5"));
}

#[test]
fn a_cell_is_read_in_the_style_of_its_table_and_its_own_unit_goes_first() {
    let speed = |cell, decimals| read_cell(cell, Quantity::Speed, decimals, 8.0).ok();
    assert_eq!(speed("1,000", Decimals::Point), Some(8000.0));
    assert_eq!(speed("1,5", Decimals::Comma), Some(12.0));
    assert_eq!(speed("1,5", Decimals::Point), None);
    assert_eq!(speed("18 Mbps", Decimals::Point), Some(18.0));
    assert_eq!(speed("2 MB/s", Decimals::Point), Some(16.0));
    assert!(has_unit("18 Mbps", Quantity::Speed) && !has_unit("18", Quantity::Speed));
}
