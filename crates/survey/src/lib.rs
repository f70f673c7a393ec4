//! From what was read to what it says: raw samples to figures ([`measuring`]), setups side by side ([`readings`]), and what readings teach of a
//! home ([`calibration`]).

pub mod calibration;
pub mod measuring;
pub mod readings;
