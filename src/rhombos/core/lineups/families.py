"""Stages in families, as they are filed: how a list of all of them is headed."""

from rhombos.core.graph.declare import Stage

FAMILIES = {
    "source": "Source and input",
    "front": "Front end",
    "control": "Clock, gates, supply",
    "magnetics": "Transformer",
    "link": "Rectifier and link",
    "feedback": "Feedback",
    "bridge": "Bridge",
    "output": "Output and loads",
    "networks": "Diodes and snubbers",
}
"""The folders of stages in the order of the power, and their titles."""
OTHERS = "The whole"


def family_of(stage: Stage) -> str:
    """The title of the folder in which a stage's formulas are filed."""
    modules = (f.fn.__module__ for f in stage.figures.values() if f.fn is not None)
    folders = (part for module in modules for part in module.split(".") if part in FAMILIES)
    return FAMILIES.get(next(folders, ""), OTHERS)
