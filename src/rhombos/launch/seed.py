"""Load the demo projects once."""

from rhombos.api.service import with_parts
from rhombos.demo.shelf import DEMOS, Demo
from rhombos.formats.design import write_design
from rhombos.store.repository import Store


def load_demo(store: Store) -> None:
    """Put the demos on the shelf, unless that was done before."""
    if store.fact("demo-loaded"):
        return
    begun = [(demo, *_begun(store, demo)) for demo in DEMOS.values()]
    for demo, project, version in reversed(begun):
        if version > 1:
            # The shelf opens the good sheet: the draft goes back to the first revision's design, and is the last that was touched.
            store.save_revision(project, version, write_design(with_parts(demo.design())), "bench A", demo.back)
        store.decide(project, demo.decision[0], demo.decision[1], {}, "bench A")
    store.note("demo-loaded", "1")


def _begun(store: Store, demo: Demo) -> tuple[int, int]:
    """A demo's project with its revisions, and the version of its draft."""
    project = store.create(demo.title, write_design(with_parts(demo.design())), "bench A", demo.revisions[0].message)
    version = 1
    for revision in demo.revisions[1:]:
        version = store.save_revision(project, version, write_design(with_parts(revision.design())), "bench A", revision.message)["version"]
    return project, version
