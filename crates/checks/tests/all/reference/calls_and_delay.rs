//! Call quality against ITU-T G.107, delay and jitter against RFC 3550 and plain arithmetic.

use busy_hen_predict::path::call::{
    CONCEALED_BPL, delay_impairment, loss_impairment, opinion, pure_delay, rating, short_delay_impairment,
};
use busy_hen_predict::path::latency::{fifo_delay, interarrival_jitter, queue};
use busy_hen_testkit::checks::check;
use busy_hen_units::{MbitPerSec, Millis};

#[test]
fn the_e_model_at_its_defaults() {
    let at_rest = rating(Millis::new(0.0), 0.0, CONCEALED_BPL);
    check(105).assert(at_rest);
    check(106).assert(opinion(at_rest));
}

#[test]
fn opinions_of_annex_b() {
    for (id, rating) in [(107, 80.0), (108, 50.0), (188, 90.0), (189, 70.0), (190, 60.0)] {
        check(id).assert(opinion(rating));
    }
}

#[test]
fn delay_and_loss() {
    check(109).assert(short_delay_impairment(Millis::new(200.0)));
    check(110).assert(pure_delay(Millis::new(300.0)));
    check(111).assert(loss_impairment(2.0, CONCEALED_BPL));
    let short = 93.2 - short_delay_impairment(Millis::new(150.0)) - loss_impairment(1.0, CONCEALED_BPL);
    check(112).assert(short);
}

/// R. G. Cole and J. H. Rosenbluth's fit, published for delays up to some 400 ms, follows the full model closely to 250 ms.
#[test]
fn the_full_model_follows_the_published_short_form() {
    for ms in [50.0, 100.0, 150.0, 200.0, 250.0] {
        let (full, short) = (delay_impairment(Millis::new(ms)), short_delay_impairment(Millis::new(ms)));
        assert!((full - short).abs() < 0.5, "{ms} ms: {full} and {short}");
    }
}

#[test]
fn jitter_and_queues() {
    check(113).assert(interarrival_jitter(Millis::new(0.0), Millis::new(16.0)).get());
    check(114).assert(fifo_delay(1e6, MbitPerSec::new(24.0)).get());
}

/// RFC 8289: a managed queue is held near its 5 ms target, whatever the rate of a link of some Mb/s and more.
#[test]
fn a_managed_queue_stays_near_its_target() {
    for rate in [20.0, 100.0, 500.0] {
        let held = queue(true, true, MbitPerSec::new(rate)).get();
        assert!((5.0..7.0).contains(&held), "{rate} Mb/s: {held} ms");
    }
}
