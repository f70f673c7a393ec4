//! Numbers as they are typed: read in the style of the home's country.

use actix_web::web::{Data, Path, ReqData};
use actix_web::{HttpResponse, post};
use busy_hen_catalogue::spectrum::region;
use busy_hen_floorplan::lines::lengths::read_length;
use busy_hen_home::{Faults, Home, HomeId, LengthUnit};
use busy_hen_store::Pairing;
use busy_hen_units::typed::{Quantity, Read, Style, read};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::phones::PhoneHeader;
use crate::body::Body;
use crate::error::{ApiError, Asked};
use crate::problems::{Computing, Testing};
use crate::state::AppState;

/// Most numbers that are read at once.
const MOST: usize = 60;

/// Numbers as they stand in the fields of a page.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TypedNumbers {
    /// At most 60.
    #[schema(max_items = 60)]
    pub numbers: Vec<TypedNumber>,
}

/// A number as it was typed.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TypedNumber {
    /// What was typed.
    pub typed: String,
    /// What it is of.
    pub of: Quantity,
}

/// What was read of a number: exactly one of the three.
#[derive(Debug, Default, Serialize, ToSchema)]
pub struct NumberRead {
    /// The number, in the unit of its quantity.
    pub value: Option<f64>,
    /// What is asked where it may mean two.
    pub asked: Option<Asked>,
    /// Why it means none.
    pub problem: Option<String>,
}

/// How numbers are written where this home is.
pub fn style_of(home: &Home) -> Style {
    region::find(&home.region).map_or(Style::POINT, |region| region.numbers)
}

/// One number, or what is asked about it, or why it is none.
pub fn number_of(typed: &str, of: Quantity, style: Style, pointer: &str) -> Result<f64, NotRead> {
    match read(typed, of, style) {
        Ok(Read::Value(value)) => Ok(value),
        Ok(Read::Unclear(choices)) => {
            let choices: Vec<String> = choices.into_iter().map(|own| own.text).collect();
            Err(NotRead::Asked(asked(pointer, typed, choices)))
        }
        Err(words) => Err(NotRead::Problem(words.0)),
    }
}

/// A length as [number_of] reads numbers, in metres.
pub fn length_of(typed: &str, unit: LengthUnit, pointer: &str) -> Result<f64, NotRead> {
    let text = typed.trim();
    let chars: Vec<char> = text.chars().take(200).collect();
    match read_length(&chars, 0) {
        Some(Ok((length, end))) if end == chars.len() => Ok(length.metres(unit).get()),
        Some(Err(wrong)) if !wrong.fixes.is_empty() => {
            let choices = wrong.fixes.into_iter().map(|fix| fix.with).collect();
            Err(NotRead::Asked(asked(pointer, text, choices)))
        }
        Some(Err(wrong)) => Err(NotRead::Problem(wrong.message)),
        _ => {
            let example = if unit == LengthUnit::Foot { "12'6" } else { "3.8" };
            Err(NotRead::Problem(format!("“{text}” is not a length; type it as in “{example}”.")))
        }
    }
}

/// Why there is no number.
pub enum NotRead {
    /// It may mean two.
    Asked(Asked),
    /// It means none.
    Problem(String),
}

impl NotRead {
    /// What to tell.
    pub fn words(self) -> String {
        match self {
            Self::Asked(asked) => asked.message,
            Self::Problem(words) => words,
        }
    }
}

fn asked(pointer: &str, typed: &str, choices: Vec<String>) -> Asked {
    let message = format!("“{}” can be {}: which is meant?", typed.trim(), choices.join(" or "));
    Asked { pointer: pointer.to_owned(), message, choices }
}

fn answer(home: &Home, asked: TypedNumbers) -> Result<HttpResponse, ApiError> {
    if asked.numbers.len() > MOST {
        return Err(Faults::one("/numbers", format!("At most {MOST} numbers are read at once.")).into());
    }
    let style = style_of(home);
    let read = asked.numbers.iter().map(|own| match number_of(&own.typed, own.of, style, "") {
        Ok(value) => NumberRead { value: Some(value), ..NumberRead::default() },
        Err(NotRead::Asked(asked)) => NumberRead { asked: Some(asked), ..NumberRead::default() },
        Err(NotRead::Problem(problem)) => NumberRead { problem: Some(problem), ..NumberRead::default() },
    });
    Ok(HttpResponse::Ok().json(read.collect::<Vec<_>>()))
}

/// Reads numbers as people type them in the country of this home: 1,000; £600; 18 Mbps; 84,5.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path)), request_body = TypedNumbers,
    responses((status = OK, description = "What each was read as, in their order.", body = Vec<NumberRead>), Computing))]
#[post("/homes/{home}/numbers")]
pub async fn read_numbers(
    state: Data<AppState>,
    home: Path<HomeId>,
    asked: Body<TypedNumbers>,
) -> Result<HttpResponse, ApiError> {
    answer(&state.store.home(*home).await?.home, asked.into_inner())
}

/// The same for a paired phone, in the country of its home.
#[utoipa::path(tag = "phones", params(PhoneHeader), request_body = TypedNumbers,
    responses((status = OK, description = "What each was read as, in their order.", body = Vec<NumberRead>), Computing, Testing))]
#[post("/numbers")]
pub async fn phone_numbers(
    state: Data<AppState>,
    pairing: ReqData<Pairing>,
    asked: Body<TypedNumbers>,
) -> Result<HttpResponse, ApiError> {
    answer(&state.store.home(pairing.home).await?.home, asked.into_inner())
}
