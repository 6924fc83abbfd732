from mangler.table.tally import MOST_EXAMPLES, Tally


def test_tallies_of_batches_add_up_and_keep_the_first_examples() -> None:
    total = Tally()
    total.add(Tally(rows_in=2, rows_out=2, cells_changed=1, examples=["a", "b"]))
    total.add(Tally(rows_in=3, rows_out=3, nulls_made=2, examples=["b", "c", "d"]))
    assert (total.rows_in, total.cells_changed, total.nulls_made) == (5, 1, 2)
    assert total.examples == ["a", "b", "c"] and len(total.examples) == MOST_EXAMPLES


def test_rows_that_went_are_a_change_too() -> None:
    assert not Tally(rows_in=2, rows_out=2).changed_anything
    assert Tally(rows_in=2, rows_out=1).changed_anything
