"""What rectifier and link look like: the link within reach, and the window between what is needed and what is stood."""

from rhombos.core.graph.pictures import Bar, Bars, Limit, Plot, Seen, Series, least, most
from rhombos.core.stages.link.dc_link_discharge import dc_link
from rhombos.core.stages.link.rectifier import rectifier


@rectifier.picture("Link over the window, full load", "source_voltage", "needed_valley")
def reach(seen: Seen) -> Plot:
    """The link that the front end could reach, and the one that it holds, the build held."""
    curve = seen.over_source("reachable_voltage", "output_voltage")
    series = [Series("within reach", curve.x, curve.series["reachable_voltage"], "slate", dashed=True), Series("link", curve.x, curve.series["output_voltage"])]
    return Plot("source voltage", "V", "V", series, [Limit("valley needed", most(seen.each("needed_valley")))])


@rectifier.picture("Diode, from the air inside to the chip")
def diode(seen: Seen) -> Bars:
    """Junction of one diode at every corner against its limit."""
    air = seen.at("ambient_temperature")
    bars = [Bar(title, air, air + rise, strong=i == seen.corner) for i, (title, rise) in enumerate(zip(seen.corners, seen.each("diode_rise"), strict=True))]
    return Bars("K_abs", bars, [Limit("limit", seen.at("diode_maximum_temperature"))])


@dc_link.picture("Link window")
def window(seen: Seen) -> Bars:
    """The link between what the output needs of it and what every part that stands on it allows."""
    valley, crest = least(seen.each("link_valley")), most(seen.each("link_crest"))
    stand = [
        Bar(f"{title.lower().replace('rated voltage', 'rating')}{'' if hold == 1 else f' / {hold:g}'}", 0.0, allows / hold, "hold", weak=True)
        for title, allows, hold in seen.allowed("highest_link")
    ]
    needed = Bar("needed by the output", 0.0, most(seen.each("needed_valley")), "slate", weak=True)
    return Bars("V", [needed, Bar("link, valley to crest", valley, crest), *stand])
