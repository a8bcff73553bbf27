"""Load the demo projects once."""

from rhombos.api.service import with_parts
from rhombos.demo.shelf import DEMOS
from rhombos.formats.design import write_design
from rhombos.store.repository import Store


def load_demo(store: Store) -> None:
    """Put the demos on the shelf, unless that was done before."""
    if store.fact("demo-loaded"):
        return
    for demo in DEMOS.values():
        first = with_parts(demo.revisions[0].design())
        project = store.create(demo.title, write_design(first), "bench A", demo.revisions[0].message)
        version = 1
        for revision in demo.revisions[1:]:
            saved = store.save_revision(project, version, write_design(with_parts(revision.design())), "bench A", revision.message)
            version = saved["version"]
        if version > 1:
            # The shelf opens the good sheet: the draft goes back to the first revision's design.
            store.save_revision(project, version, write_design(first), "bench A", demo.back)
        store.decide(project, demo.decision[0], demo.decision[1], {}, "bench A")
    store.note("demo-loaded", "1")
