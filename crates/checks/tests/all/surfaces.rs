//! The insides of the rooms of the demo home: closed, seen whole, and alike from both sides.

use busy_hen_floorplan::Plan;
use busy_hen_floorplan::surface::Surface;

fn plan() -> Plan {
    let home = busy_hen_demo::canal_terrace();
    Plan::new(&home.house, home.units)
}

#[test]
fn the_surfaces_of_a_cell_close_it() {
    let plan = plan();
    let surfaces = &plan.surfaces;
    for cell in &surfaces.cells {
        let floor = |level: usize| plan.levels[level].z;
        let own = &plan.levels[cell.level];
        let height = if cell.level + 1 < plan.levels.len() { floor(cell.level + 1) - own.z } else { own.height };
        let box_area = 2.0 * (cell.rect.width * cell.rect.depth + height * (cell.rect.width + cell.rect.depth));
        assert!((cell.area - box_area).abs() < 0.05 * box_area, "{cell:?}: {box_area}");
    }
}

#[test]
fn from_inside_of_a_room_its_surfaces_fill_the_whole_view() {
    let plan = plan();
    // The last two lie at the ends of the hall, which is in pieces.
    for (x, y) in [(1.0, 1.0), (3.0, 2.5), (2.0, 8.0), (4.1, 0.4), (4.1, 6.2)] {
        let view = plan.surfaces.view(&plan.in_hand(0, x, y));
        let whole: f64 = view.parts.iter().map(|(_, part)| part).sum();
        assert!((whole - 1.0).abs() < 0.02, "{whole} at {x}, {y}");
    }
}

#[test]
fn what_an_opening_lets_see_fills_it_and_lies_in_line_with_it() {
    let plan = plan();
    let surfaces = &plan.surfaces;
    let place = plan.in_hand(0, 4.1, 0.4);
    let view = surfaces.view(&place);
    let opening = view.through.first().map(|(own, _)| surfaces.glimpses[*own].opening).unwrap();
    let seen = view.through.iter().filter(|(own, _)| surfaces.glimpses[*own].opening == opening);
    let whole: f64 = seen.map(|(_, part)| part).sum();
    let fills = view.parts.iter().find(|(own, _)| *own == opening).unwrap().1;
    assert!((whole - fills).abs() < 1e-9, "{whole} of {fills}");
    for (own, _) in &view.through {
        let beyond = &surfaces.list[surfaces.glimpses[*own].seen];
        let door = &surfaces.list[surfaces.glimpses[*own].opening];
        assert!(door.outward(&beyond.middle()) > 0.0, "on the far side of it");
    }
}

#[test]
fn a_surface_shares_all_that_it_sees() {
    let surfaces = plan().surfaces;
    for (index, surface) in surfaces.list.iter().enumerate() {
        let whole = |shares: &[(usize, f64)]| shares.iter().map(|(_, share)| share).sum::<f64>();
        assert!((whole(surfaces.before(index)) - 1.0).abs() < 1e-9);
        let behind = if surface.beyond.is_some() { 1.0 } else { 0.0 };
        assert!((whole(surfaces.behind(index)) - behind).abs() < 1e-9);
    }
    let far = |index: usize| surfaces.before(index).len() > 1;
    assert!((0..surfaces.list.len()).any(far), "a door of the hall sees all of it");
}

#[test]
fn what_lies_beyond_a_surface_lies_beyond_its_twin_too() {
    let surfaces = plan().surfaces;
    for surface in &surfaces.list {
        let Some(beyond) = surface.beyond else { continue };
        let back: f64 = surfaces
            .list
            .iter()
            .filter(|other| other.cell == beyond && other.beyond == Some(surface.cell))
            .map(Surface::area)
            .sum();
        assert!(back >= surface.area() - 0.05, "{surface:?}");
    }
}

#[test]
fn outdoors_one_sees_the_outsides_that_face_one() {
    let plan = plan();
    let view = plan.surfaces.view(&plan.in_hand(0, 2.0, 15.0));
    assert!(view.cell.is_none() && !view.parts.is_empty());
    for (index, _) in view.parts {
        assert!(plan.surfaces.list[index].beyond.is_none());
    }
}
