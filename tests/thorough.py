"""What `make test` leaves to `make thorough`, so that it is done within twelve minutes on two slow cores, and why.

A name stands for itself and for all that begin with it. What is left out is the same way, table or oracle again, longer or on more
parts. When the list was made, 49 of the 39,930 lines of `wendal` that the tests of the core, the service and the store go through were
gone through by these alone.
"""

from __future__ import annotations

from collections.abc import Iterable

import pytest

__all__ = ["mark"]

OF_DEMO_PARTS = [
    "test_cut_outline.py::test_the_outline_is_that_of_all_faces_cut_one_by_one",
    "test_demo_parts.py::test_predictable_update",
    "test_drawing.py::test_pages_of_the_demo_parts_have_nothing_on_anything_and_fit",
    "test_keeping.py::test_the_next_process_builds_nothing_and_goes_on_as_if_it_had",
    "test_receiving.py::test_a_part_comes_back_with_its_volume_names_and_faces",
    "test_route_commands.py::test_what_is_foretold_of_deleting_or_suppressing_a_step_happens",
]
LEFT = {
    "Parts made by hand from nothing. Each kind of step has a way of its own in `test_every_way_in`; other parts stay.": [
        "e2e/test_building.py::test_a_float_wheel_from_an_empty_part",
        "e2e/test_handbook.py::test_what_a_page_says_is_done[02-first-part]",
        "e2e/test_handbook.py::test_what_a_page_says_is_done[05-holes]",
        "e2e/test_handbook.py::test_what_a_page_says_is_done[06",
        "e2e/test_handbook.py::test_what_a_page_says_is_done[07-edges]",
        "e2e/test_handbook.py::test_what_a_page_says_is_done[08-change]",
        "e2e/test_handbook.py::test_what_a_page_says_is_done[08b-trust]",
        "e2e/test_handbook.py::test_what_a_page_says_is_done[13b-drawings]",
        "e2e/test_shaping.py",
        "e2e/test_sketch_journeys.py::test_a_crest_along_a_spline",
        "e2e/test_sketch_journeys.py::test_a_profile_on_a_slanting_face",
        "e2e/test_sketch_journeys.py::test_a_wall_along_a_crest",
        "e2e/test_sketch_texts.py::test_a_name_plate",
        "e2e/test_thin_slice.py",
        "e2e/test_twelve_tasks.py::test_a_stack_of_three",
        "e2e/test_twelve_tasks.py::test_an_arm_of_four_circles",
        "e2e/test_twelve_tasks.py::test_six_axes_and_six_points",
    ],
    "Longer ways of what another journey does.": [
        "e2e/test_datums.py::test_an_axis_where_faces_of_two_bodies_would_meet",
        "e2e/test_datums.py::test_an_inclined_plane_in_every_order[ask first-face first]",
        "e2e/test_datums.py::test_an_inclined_plane_in_every_order[pick first-edge first]",
        "e2e/test_every_way_in.py::test_every_drawing_tool_by_every_way_takes_what_is_typed[1]",
        "e2e/test_first_hour.py::test_nothing_is_cut_off_or_covered[size1]",
        "e2e/test_first_hour.py::test_nothing_is_cut_off_or_covered[size2]",
        "e2e/test_ledger.py::test_csv_out_and_in",
        "e2e/test_first_hour.py::test_a_first_part_ticks_itself_off",
        "e2e/test_looking.py::test_a_corner_is_cut_away_kept_and_shown_again",
        "e2e/test_looking.py::test_cut_open_at_a_plane",
        "e2e/test_parts_and_files.py::test_killing_wendal",
        "e2e/test_sketch.py::test_a_corner_that_the_server_has_not_drawn_yet_is_caught_all_the_same[on an axis]",
        "e2e/test_sketch.py::test_an_ellipse_is_cut_in_half",
        "e2e/test_trust.py::test_a_picked_face_an_aim_by_two",
        "e2e/test_trust.py::test_what_ends_a_range",
        "e2e/test_twelve_tasks.py::test_thirty_steps_back",
    ],
    "Oracles with chance parts that `make hunt` asks of many more; the suite keeps one of a kind.": [
        "core/test_comparing.py::test_random_pairs",
        "core/test_hunt.py::test_no_blend_or_wall_lands",
        "core/test_hunt.py::test_no_reference_to_a_single_copy",
        "core/test_hunt.py::test_planes_that_tilt",
        "core/test_hunt.py::test_what_is_written_is_read_back",
        "core/test_moving.py::test_sets_by_chance",
        "core/test_moving.py::test_wishes_by_one_or_two",
        "core/test_pieces.py::test_the_oracle_of_pieces",
        "core/test_together.py::test_chains_by_chance",
        "core/test_unaltered.py::test_no_step_of_random_parts",
        "core/test_unaltered.py::test_no_step_of_a_grown_part",
    ],
    "Tables over the demo parts, of which the suite keeps two or three.": [
        *(f"core/{table}[{part}" for table in OF_DEMO_PARTS for part in ("float_wheel", "instrument_bracket", "sensor_housing")),
        "core/test_incremental.py::test_edit_by_edit_is_as_from_nothing[bracket]",
        "core/test_incremental.py::test_edit_by_edit_is_as_from_nothing[housing]",
        "core/test_meshes.py::test_a_part_comes_back_as_what_its_triangles_enclose[mast_clamp]",
        "core/test_meshes.py::test_a_part_comes_back_as_what_its_triangles_enclose[well_head_flange]",
        "core/test_unaltered.py::test_a_refused_trial_changes_nothing",
        "core/test_unaltered.py::test_no_step_alters_what_is_remembered[sensor_housing]",
    ],
    "The same once more: another member of a table, another process, another fault.": [
        "api/test_database.py::test_an_edit_to_a_frozen_database_is_never_told_as_lost_when_it_is_kept[before]",
        "api/test_database.py::test_a_database_is_started_again_and_again",
        "core/test_shakedown.py::test_a_planted_weakness",
        "core/test_shakedown.py::test_another_pick_in_the_same_plane",
        "core/test_shakedown.py::test_the_ends_of_ranges_are_as_known[a plate as wide as its corners]",
        "core/test_shakedown.py::test_the_ends_of_ranges_are_as_known[corners as round as the plate is wide]",
        "core/test_shakedown.py::test_what_only_happens_to_lie_there",
        "core/test_sketch_texts.py::test_letters_become_solids_of_just_their_area[barlow",
        "core/test_wrap.py::test_words_go_round[engraved]",
        "test_cluster.py::test_a_cluster_finds_the_same",
        "test_cluster.py::test_a_worker_that_is_killed",
    ],
}

# Whole rooms of the core whose tests take more than 0.2 s each: `make quick` leaves them out.
SLOW = [
    "aligned_sections", "blends", "comparing", "cut_outline", "demo_parts", "drawing", "dxf_in", "grouping", "hunt",
    "incremental", "joining", "keeping", "keys", "lengths", "meshes", "moving", "once", "patterns", "pieces", "preview",
    "receiving", "reshape", "rib", "ridges", "route_commands", "shakedown", "shell", "sketch_beside", "sketch_properties",
    "spreadsheet", "sweep", "sweep_more", "unaltered", "ways_out", "wrap",
]


def mark(items: Iterable[pytest.Item], whole: bool) -> None:
    """Mark what is left to the thorough run, and what is slow. whole : all tests are there, so that a name which no test has is a fault."""
    names = [name for names in LEFT.values() for name in names]
    rooms = {f"core/test_{room}.py": room for room in SLOW}
    used = set[str]()
    for item in items:
        own = item.nodeid.removeprefix("tests/")
        if room := rooms.get(own.partition("::")[0]):
            used.add(room)
            item.add_marker("slow")
        for name in names:
            if own.startswith(name):
                used.add(name)
                item.add_marker("thorough")
    if whole and (lost := sorted({*names, *SLOW} - used)):
        raise pytest.UsageError(f"tests/thorough.py names what is not there: {lost}")
