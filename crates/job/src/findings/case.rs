//! What the rules of the findings look at, and what each finds.

use busy_hen_catalogue::Catalogue;
use busy_hen_catalogue::spectrum::{Region, region};
use busy_hen_floorplan::Plan;
use busy_hen_home::{Device, DeviceId, Home, Setup};
use busy_hen_predict::path::network::Network;
use busy_hen_predict::{Knowledge, Question, network_of};
use busy_hen_units::MbitPerSec;

use super::rule::Rule;
use crate::parts::{Parts, parts};

/// What rules look at.
pub struct Case<'a> {
    pub home: &'a Home,
    pub setup: &'a Setup,
    pub plan: &'a Plan,
    pub network: Network<'a>,
    pub kept: &'a Knowledge,
    pub region: Option<&'static Region>,
    pub question: Question,
    pub parts: Parts,
    pub catalogue: Catalogue,
}

/// What a rule has found, before its cost is known.
pub struct Found {
    pub rule: Rule,
    pub device: Option<DeviceId>,
    pub what: String,
    pub mended: Option<(String, Setup)>,
    /// What mending gives, where it is no speed.
    pub gain: Option<String>,
}

impl Found {
    pub fn new(rule: Rule, device: Option<&Device>, what: String) -> Self {
        Self { rule, device: device.map(|own| own.id), what, mended: None, gain: None }
    }

    pub fn fix(self, words: impl Into<String>, mended: Setup) -> Self {
        Self { mended: Some((words.into(), mended)), ..self }
    }
}

impl<'a> Case<'a> {
    pub fn of(home: &'a Home, setup: &'a Setup, plan: &'a Plan, question: Question, kept: &'a Knowledge) -> Self {
        let network = network_of(home, setup, plan, &question, kept);
        let (region, parts) = (region::find(&home.region), parts(home, setup, plan));
        Self { home, setup, plan, network, kept, region, question, parts, catalogue: Catalogue::of(home) }
    }
}

impl Case<'_> {
    /// The setup with one device changed.
    pub fn with(&self, device: &Device, change: impl FnOnce(&mut Device)) -> Setup {
        let mut setup = self.setup.clone();
        if let Some(own) = setup.devices.iter_mut().find(|own| own.id == device.id) {
            change(own);
        }
        setup
    }

    /// Devices with their place in the network; none for kit that is in no catalogue.
    pub fn devices(&self) -> impl Iterator<Item = (&Device, usize)> {
        self.setup.devices.iter().filter_map(|device| {
            let index = self.network.nodes.iter().position(|node| node.id == device.id)?;
            Some((device, index))
        })
    }

    /// What the plan gives on the day that is asked about.
    pub fn plan_down(&self) -> Option<MbitPerSec> {
        self.home.brief.plan_of(self.question.reach, self.question.day).map(|plan| plan.down_mbps)
    }

    /// The room that a device stands in.
    pub fn room_of(&self, device: &Device) -> Option<&busy_hen_floorplan::PlanRoom> {
        self.plan.room_of(&device.at)
    }
}
