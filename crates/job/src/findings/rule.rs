//! The rules: what each rests on, and why it matters.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What a rule rests on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Basis {
    /// A published standard or a country's radio rules.
    Standard,
    /// Predicted with and without.
    Computed,
    /// What the trade holds to.
    CommonPractice,
}

/// Rules about harm, law and safety.
const GRAVE: &[Rule] = &[
    Rule::IndoorChannelOutdoors,
    Rule::NotForOutdoors,
    Rule::MayNotDrill,
    Rule::RadarBound,
    Rule::HotInside,
    Rule::TooLittlePower,
    Rule::PowerStrip,
    Rule::LooseCable,
    Rule::MetalCabinet,
];
/// Rules besides that nothing proposed may break.
const FORBIDDEN: &[Rule] = &[
    Rule::DoubleTranslation,
    Rule::RepeaterChain,
    Rule::DeadHop,
    Rule::SlowBandHop,
    Rule::OldWifiOn,
    Rule::OneChannel,
    Rule::WideIn2_4,
    Rule::BetweenChannels,
    Rule::NothingServes,
    Rule::SlowPort,
    Rule::OldCable,
    Rule::NoisyOutlet,
    Rule::OtherBoard,
    Rule::WontPair,
    Rule::NoOutlet,
    Rule::NoWay,
    Rule::CableTooLong,
    Rule::NoFreePort,
    Rule::MustLacking,
    Rule::OverBudget,
    Rule::Cupboard,
    Rule::TwoAddressServers,
    Rule::AddressClash,
];

macro_rules! rules {
    ($($(#[doc = $doc:literal])* $name:ident, $basis:ident, $weight:literal, $why:literal;)*) => {
        /// A rule about setups.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
        #[serde(rename_all = "snake_case")]
        pub enum Rule {
            $($(#[doc = $doc])* $name,)*
        }

        impl Rule {
            /// All of them.
            pub const ALL: &'static [Self] = &[$(Self::$name,)*];

            /// What it rests on.
            #[must_use]
            pub fn basis(self) -> Basis {
                match self { $(Self::$name => Basis::$basis,)* }
            }

            /// Why it matters, for somebody who meets it for the first time.
            #[must_use]
            pub fn why(self) -> &'static str {
                match self { $(Self::$name => $why,)* }
            }

            /// Whether it is about harm, law or safety: never folded away.
            #[must_use]
            pub fn is_grave(self) -> bool {
                GRAVE.contains(&self)
            }

            /// Whether nothing that is proposed may break it. The others weigh one good against another.
            #[must_use]
            pub fn forbids(self) -> bool {
                GRAVE.contains(&self) || FORBIDDEN.contains(&self)
            }

            /// Its name in the interface and in the home file.
            #[must_use]
            pub fn key(self) -> String {
                let mut key = String::new();
                for letter in (match self { $(Self::$name => stringify!($name),)* }).chars() {
                    if letter.is_uppercase() && !key.is_empty() {
                        key.push('_');
                    }
                    key.push(letter.to_ascii_lowercase());
                }
                key
            }

            /// What it costs besides the speed that is computed, in doublings: trouble that no prediction shows.
            #[must_use]
            pub(super) fn weight(self) -> f64 {
                match self { $(Self::$name => $weight,)* }
            }
        }
    };
}

rules! {
    /// A device in a metal cabinet.
    MetalCabinet, Computed, 0.0, "Metal throws radio waves back: what stands in a metal cabinet talks to the cabinet.";
    /// A device in a cupboard.
    Cupboard, CommonPractice, 0.1, "Wood takes a little signal, and closed in it runs warm: heat ages it and makes it slow down.";
    /// A second router behind the first.
    DoubleTranslation, CommonPractice, 0.8, "Addresses are translated twice: the two networks don't see each other, and games and calls may fail to connect.";
    /// A repeater behind a repeater.
    RepeaterChain, Computed, 0.3, "Each repeat uses the same airtime once more, so about half is left at each.";
    /// A radio hop that cannot work.
    DeadHop, Standard, 6.0, "A node that hears nothing shines without passing anything on.";
    /// A radio hop that passes less than the rooms behind it need.
    WeakHop, Computed, 0.2, "A node can pass on no more than it receives: placed where it hears poorly, it makes a strong signal with little behind it.";
    /// Backhaul by the radio that serves.
    SharedBackhaul, Computed, 0.0, "One radio carries the way to the router and the phones by turns: both get less.";
    /// Backhaul by the slower band.
    SlowBandHop, Computed, 0.0, "2.4 GHz reaches far and carries little: where 5 GHz still holds between two devices it carries more.";
    /// A device that gives no room anything.
    Wasted, CommonPractice, 0.2, "It costs money, airtime and power, and every further device is one more that can fail.";
    /// The old router's Wi-Fi beside the new one.
    OldWifiOn, CommonPractice, 0.6, "Two own networks clash, and phones cling to the old one long after it has become the slower.";
    /// Two own devices on one channel.
    OneChannel, CommonPractice, 0.2, "Radios that hear each other on one channel take turns, like people at one microphone.";
    /// A channel that may not be used outdoors.
    IndoorChannelOutdoors, Standard, 5.0, "The country allows this channel indoors only; outdoors it is an offence.";
    /// A channel shared with radar.
    RadarBound, Standard, 0.15, "The radio must listen before it sends, and leave at once when it hears a radar: the network is gone for a minute or more.";
    /// A wide channel in the narrow band.
    WideIn2_4, CommonPractice, 0.3, "The 2.4 GHz band has room for three networks of 20 MHz; a wider one takes two of them and hears twice the neighbours.";
    /// A channel between the three.
    BetweenChannels, CommonPractice, 0.3, "On 1, 6 and 11 networks take turns; in between they only hear each other as noise.";
    /// A busier channel than need be.
    BusyChannel, Computed, 0.0, "Neighbours on the channel take their share of the airtime.";
    /// A narrower channel than the radio can.
    NarrowChannel, Computed, 0.0, "Each doubling of the width about doubles the speed where the signal is good.";
    /// A radio that serves nobody though it could.
    RadioOff, Computed, 0.0, "A band that is switched off can't carry anybody.";
    /// No radio serves at all.
    NothingServes, Standard, 6.0, "No phone can join: every radio is off or kept for backhaul.";
    /// A port slower than the plan.
    SlowPort, Standard, 0.6, "A port passes no more than its speed, whatever the line and the air can do: 94 % of it at best (IEEE 802.3 frames).";
    /// Old cable.
    OldCable, Standard, 0.1, "Cat 5 is made for 100 Mb/s; a gigabit needs Cat 5e (ISO/IEC 11801).";
    /// A power-line end in a strip.
    PowerStrip, CommonPractice, 0.4, "Filters and contacts of a strip swallow the very frequencies that carry the data.";
    /// A noisy appliance at a power-line outlet.
    NoisyOutlet, CommonPractice, 0.2, "Chargers, dimmers and motors send noise into the wiring right where the adapter listens.";
    /// A power-line pair that passes less than the plan.
    PowerLineUnderPlan, Computed, 0.2, "The figure on the box counts what no cable of a home ever lets through.";
    /// A power-line pair over two boards.
    OtherBoard, CommonPractice, 0.3, "Between two boards or phases, or through an arc-fault breaker, little comes through.";
    /// Too many splitters on the coax.
    Splitters, Computed, 0.1, "Every splitter halves the power in each of its legs.";
    /// Nobody guides the phones.
    NotGuided, CommonPractice, 0.8, "Phones cling to the device they joined first, however weak it has become.";
    /// Kit of several families under one name.
    MixedKit, CommonPractice, 0.5, "Kit of different families does not tell phones where to go, whatever each can do by itself.";
    /// A mesh node that joins another family's device by radio.
    WontPair, CommonPractice, 1.2, "Mesh nodes pair with nodes of their own family. A provider’s router or another family’s node mostly refuses them: ask its maker before anything is bought.";
    /// A newer device behind an older one.
    NewerBehindOlder, CommonPractice, 0.2, "A radio hop is as new as its older end: the newer device gains nothing upstream.";
    /// One radio device that feeds several.
    SinglePoint, Computed, 0.4, "All that hangs on it takes turns on its radio, and all of it is gone when it fails.";
    /// Kit that stands still and goes by air.
    FixedOnAir, CommonPractice, 0.2, "What stands still can have a cable, and leaves the air to what moves.";
    /// More needed than the plan gives.
    BeyondPlan, Computed, 2.0, "No kit makes a line faster: what the family does at once is more than is bought.";
    /// Queues that grow under load.
    LongQueue, CommonPractice, 0.3, "While the line is full, everything waits in one long queue: calls break up though the speed is there.";
    /// The router away from where the line enters.
    AwayFromEntry, CommonPractice, 0.1, "The line has to be brought to it by a cable that somebody must lay.";
    /// No outlet near.
    NoOutlet, CommonPractice, 0.3, "It needs power, and a strip across the floor is no place for it.";
    /// A cable where nobody may drill.
    MayNotDrill, CommonPractice, 0.3, "The owner decides about holes; look for hidden wires and pipes first.";
    /// A cable that no way leads for.
    NoWay, Computed, 0.6, "What can't be laid is no cable, whatever it promises on the plan.";
    /// A cable longer than a network cable may be.
    CableTooLong, Standard, 3.0, "A network cable is made for 100 m from port to port (ISO/IEC 11801); beyond that the link may not come up.";
    /// A cable that lies loose.
    LooseCable, CommonPractice, 0.1, "A loose cable shows what a laid one would do; people trip over it, and it is gone the day after.";
    /// More cables than ports.
    NoFreePort, Computed, 2.0, "A device has the ports it has; what finds none is not connected.";
    /// Ports that feed less than hangs on them.
    TooLittlePower, Standard, 2.0, "A port that feeds gives so much and no more (IEEE 802.3, power over Ethernet); what gets too little starts again and again.";
    /// Indoor kit outdoors.
    NotForOutdoors, Standard, 1.0, "Rain, frost and sun get into a case that is not rated for them (IEC 60529), and mains outdoors is for licensed hands.";
    /// Something the family must have and the kit lacks.
    MustLacking, CommonPractice, 6.0, "Kit that lacks what the family must have is the wrong kit, however fast it is.";
    /// Something the family must have and the kit has for a fee.
    MustForAFee, CommonPractice, 0.2, "A fee goes on for as long as the kit is used; say so before it is bought.";
    /// More than the family will spend.
    OverBudget, CommonPractice, 0.5, "What costs more than was agreed is not bought: look what can be left out.";
    /// Kit that runs hot where no air gets to it.
    HotInside, CommonPractice, 0.3, "Heat that can't leave makes kit slow down, restart and age.";
    /// Firmware left behind.
    FirmwareBehind, CommonPractice, 0.4, "Kit of one family works together as its oldest member does, and old firmware has known holes.";
    /// More than one device that hands out addresses.
    TwoAddressServers, CommonPractice, 1.0, "Two that hand out addresses in one network fail now and then, which is worse than always.";
    /// An address that two may come to have.
    AddressClash, CommonPractice, 0.8, "Whoever shares an address is reached by chance: its settings, its calls, its printer come and go.";
}
