"""Sensing and regulating the output itself: rectified samples that read the mean, rms by samples, the loop by half waves (7.1; 16, H22; 15.2 no. 2)."""

import numpy as np

from rhombos.core.formulas.numeric import nearest_in, up
from rhombos.core.graph.declare import Move, Option, Stage
from rhombos.core.graph.pictures import Limit, Plot, Seen, Series
from rhombos.core.units import show

MEAN = "mean of a rectified sine: √2/π of its rms by half waves, 2√2/π by full waves; of a stepped wave link times duty"
SAMPLES = "rms over whole cycles: V = √(Σv²/N)"
HALF_WAVES = "D[k+1] = D[k] + K·(1 − m[k]), m = (V/V_set)² filtered: poles of z² − (1 + a)z + a + K(1 − a)"

output_sensing = Stage("output_sensing", "Output sensing", path=False, telling="{sampled_by}")
output_sensing.hazard("ac_voltage", "sensed_output")
output_sensing.choice(
    "sampled_by",
    {
        "half_wave": Option("half-wave sample", {"half_waved": 1, "by_samples": 0}),
        "full_wave": Option("full-wave sample", {"half_waved": 0, "by_samples": 0}),
        "rms": Option("rms by samples", {"half_waved": 0, "by_samples": 1}),
    },
    {"half_waved": ("", r"\sigma_1", "1 where one half wave is sampled."), "by_samples": ("", r"\sigma_N", "1 where the rms is computed from samples.")},
    default="full_wave",
    sentence="How the output comes to the converter of the controller.",
    title="Sample",
)
output_sensing.choice(
    "wave",
    {"sine": Option("sine", {"stepped": 0}), "stepped": Option("stepped", {"stepped": 1})},
    {"stepped": ("", r"\sigma_s", "1 where the output is a stepped wave.")},
    default="sine",
    sentence="Which wave is sampled: the scale hangs on it.",
    title="Wave",
)
output_sensing.give("sensed_output", 230.0, "V", r"V_o", 10, 1000, "Rms output at its set-point.", "Output")
output_sensing.give("sensed_link", 370.0, "V", r"V_\mathrm{link}", 10, 2000, "Link of a stepped wave.", "Link")
output_sensing.give("sense_frequency", 50.0, "Hz", "f_o", 10, 1000, "Output frequency.", "Output frequency")
output_sensing.give("sense_reference", 2.5, "V", r"V_\mathrm{tap}", 0.1, 5, "What the converter is to read at the set-point.", "Tap at the set-point")
output_sensing.give("sense_full_scale", 5.0, "V", r"V_\mathrm{adc}", 0.5, 10, "Full scale of the converter; its clamp must not conduct below.", "Full scale")
output_sensing.give("sense_lower", 10e3, "Ω", "R_l", 100, 1e6, "Lower resistor of the divider.", "Lower resistor")
output_sensing.give("sense_bits", 10.0, "", r"n_\mathrm{adc}", 6, 24, "Bits of the converter.", "Bits", whole=True)
output_sensing.give("sense_samples", 256.0, "", "N_a", 8, 65536, "Samples over whole cycles.", "Samples", whole=True)
output_sensing.give("accumulator", 32.0, "", r"n_\mathrm{acc}", 8, 64, "Bits of the accumulator of squares.", "Accumulator", whole=True)
output_sensing.give("processor_clock", 16e6, "Hz", r"f_\mathrm{clk}", 1e4, 1e9, "Clock of the controller.", "Controller's clock")
output_sensing.give("cycles_needed", 400.0, "", r"n_c", 1, 1e6, "Processor cycles that a sample takes.", "Cycles of a sample", whole=True)
output_sensing.give("loop_filter", 0.1, "s", r"\tau_f", 1e-3, 10, "Filter of the squared reading.", "Filter of the loop")
output_sensing.give("loop_gain", 0.024, "", "K", 1e-5, 2, "Gain of the half-wave loop, in units of the duty at set-point.", "Gain of the loop")


@output_sensing.build(
    unit="",
    symbol="D_h",
    source="stepped wave: V² = V_link²·D",
    title="Duty of a half wave",
    tex=r"\left(\frac{sensed_output}{sensed_link}\right)^2",
    example=({"sensed_output": 230, "sensed_link": 325}, 0.500828),
)
def half_wave_duty(sensed_output, sensed_link):
    """Part of each half period that a stepped wave stands at the link."""
    return (sensed_output / sensed_link) ** 2


@output_sensing.build(
    unit="V",
    symbol=r"V_\mathrm{mean}",
    source=MEAN,
    title="Sample reads",
    tex=r"\begin{cases}{sensed_output}&{by_samples}=1\\{sensed_link}\,{half_wave_duty}\left(1-\tfrac12{half_waved}\right)&{stepped}=1\\\frac{2\sqrt2}{\pi}\left(1-\tfrac12{half_waved}\right){sensed_output}&\text{else}\end{cases}",
    example=({"sensed_output": 230, "by_samples": 0, "sensed_link": 370, "half_wave_duty": 0.386, "half_waved": 1, "stepped": 0}, 103.535),
)
def sample_mean(sensed_output, by_samples, sensed_link, half_wave_duty, half_waved, stepped):
    """What the filtered sample stands at: a mean, in proportion to the rms only as long as the wave keeps its shape; computed rms is true."""
    waves = 1 - half_waved / 2
    mean = np.where(stepped > 0, sensed_link * half_wave_duty * waves, 2 * np.sqrt(2) / np.pi * waves * sensed_output)
    return np.where(by_samples > 0, sensed_output, mean)


@output_sensing.build(
    unit="V",
    symbol=r"\hat V",
    source="crest of the wave",
    title="Crest at the divider",
    tex=r"\begin{cases}{sensed_link}&{stepped}=1\\\sqrt2\,{sensed_output}&\text{else}\end{cases}",
    example=({"sensed_link": 370, "stepped": 0, "sensed_output": 230}, 325.269),
)
def sample_crest(sensed_link, stepped, sensed_output):
    """Highest instantaneous voltage at the divider."""
    return np.where(stepped > 0, sensed_link, np.sqrt(2) * sensed_output)


@output_sensing.build(
    unit="Ω",
    symbol="R_u",
    source="divider of the mean, or of the crest where samples are taken as they come",
    title="Upper resistor",
    decided=True,
    tex=r"\mathrm{E96}_\uparrow\left({sense_lower}\left(\begin{cases}\frac{1.1\,{sample_crest}}{sense_full_scale}&{by_samples}=1\\\frac{sample_mean}{sense_reference}&\text{else}\end{cases}-1\right)\right)",
    example=({"sense_lower": 10e3, "sample_crest": 325, "sense_full_scale": 5, "by_samples": 0, "sample_mean": 103.5, "sense_reference": 2.5}, 412e3),
)
def sense_upper(sense_lower, sample_crest, sense_full_scale, by_samples, sample_mean, sense_reference):
    """Upper resistor of the divider, next higher preferred value: never above full scale."""
    ratio = np.where(by_samples > 0, 1.1 * sample_crest / sense_full_scale, sample_mean / sense_reference)
    return nearest_in("E96", "up")(sense_lower * (ratio - 1))


@output_sensing.build(
    unit="",
    symbol=r"k_\mathrm{slip}",
    source=MEAN,
    title="Off by a mistaken wave",
    tex=r"\begin{cases}1&{by_samples}=1\\\frac{2\sqrt2\,{sensed_link}}{\pi\,{sensed_output}}&{stepped}=1\\\frac{\pi\,{sensed_output}}{2\sqrt2\,{sensed_link}}&\text{else}\end{cases}",
    example=({"by_samples": 0, "sensed_link": 370, "sensed_output": 230, "stepped": 1}, 1.44835),
)
def wave_slip(by_samples, sensed_link, sensed_output, stepped):
    """Factor by which the output would be set wrongly if the other wave's scale were taken; a computed rms does not care."""
    sine = 2 * np.sqrt(2) * sensed_link / (np.pi * sensed_output)
    return np.where(by_samples > 0, 1.0, np.where(stepped > 0, sine, 1 / sine))


@output_sensing.build(
    unit="",
    whole=True,
    symbol=r"n_\mathrm{acc,need}",
    source=SAMPLES,
    title="Accumulator needed",
    tex=r"{by_samples}\left(2\,{sense_bits}+\left\lceil\frac{\ln{sense_samples}}{\ln2}\right\rceil\right)",
    example=({"by_samples": 1, "sense_bits": 10, "sense_samples": 256}, 28),
)
def needed_accumulator(by_samples, sense_bits, sense_samples):
    """Bits that the sum of all squares may take."""
    return by_samples * (2 * sense_bits + up(np.log(sense_samples) / np.log(2)))


@output_sensing.build(
    unit="",
    symbol=r"n_{c,\mathrm{have}}",
    source=SAMPLES,
    title="Cycles available for a sample",
    tex=r"\frac{processor_clock}{{sense_samples}\,{sense_frequency}}",
    example=({"processor_clock": 16e6, "sense_samples": 256, "sense_frequency": 50}, 1250),
)
def available_cycles(processor_clock, sense_samples, sense_frequency):
    """Processor cycles between two samples, all of them within one output period."""
    return processor_clock / (sense_samples * sense_frequency)


@output_sensing.build(unit="", symbol=r"n_{c,\mathrm{ask}}", source=SAMPLES, title="Cycles asked for", tex=r"{by_samples}\,{cycles_needed}")
def asked_cycles(by_samples, cycles_needed):
    """Cycles that computing an rms asks for; none for a mean."""
    return by_samples * cycles_needed


@output_sensing.build(
    unit="",
    symbol="a",
    source=HALF_WAVES,
    title="Memory of the filter",
    tex=r"\exp\left(-\frac{1}{2\,{sense_frequency}\,{loop_filter}}\right)",
    example=({"sense_frequency": 50, "loop_filter": 0.1}, 0.904837),
)
def filter_memory(sense_frequency, loop_filter):
    """What is left of the filtered reading after a half period."""
    return np.exp(-1 / (2 * sense_frequency * loop_filter))


@output_sensing.build(
    unit="",
    symbol=r"K_\mathrm{ap}",
    source=HALF_WAVES,
    title="Gain without overshoot",
    tex=r"\frac{1-{filter_memory}}{4}",
    example=({"filter_memory": 0.904837}, 0.0237907),
)
def aperiodic_gain(filter_memory):
    """Highest gain at which the loop comes to rest without overshoot."""
    return (1 - filter_memory) / 4


@output_sensing.build(
    unit="",
    symbol=r"K_\zeta",
    source=HALF_WAVES,
    title="Gain with a damping of about 0.65",
    tex=r"\frac{1-{filter_memory}}{2}",
    example=({"filter_memory": 0.904837}, 0.0475813),
)
def damped_gain(filter_memory):
    """Gain at which the loop is quick and still well damped."""
    return (1 - filter_memory) / 2


output_sensing.check(
    "accumulator",
    title="Accumulator wide enough",
    demand="needed_accumulator",
    capability="accumulator",
    fail=1.0,
    hold=1.0,
    harm="equipment",
    sentence="The sum of squares needs {demand} bits; the accumulator has {capability}.",
    why="A sum that overflows reads low, and the output goes up.",
    remedies=(Move("accumulator", "up", 2.0), Move("sense_samples", "down", 16.0)),
    no_demand="Nothing is summed: the sample is a mean.",
)
output_sensing.check(
    "cycles",
    title="Time for each sample",
    demand="asked_cycles",
    capability="available_cycles",
    fail=1.0,
    hold=1.5,
    harm="equipment",
    sentence="A sample takes {demand} cycles; {capability} are there.",
    why="Samples that are late are left out, and the rms with them.",
    remedies=(Move("sense_samples", "down", 16.0), Move("processor_clock", "up", 8.0)),
    no_demand="Nothing is computed from samples.",
)
output_sensing.check(
    "gain",
    title="Loop settles",
    demand="loop_gain",
    capability="damped_gain",
    fail=0.1,
    hold=1.0,
    harm="equipment",
    sentence="The loop's gain is {demand}; up to {capability} it is well damped.",
    why="An output that hunts makes lamps flicker and transformers growl.",
    remedies=(Move("loop_gain", "down", 50.0), Move("loop_filter", "down", 10.0)),
)


@output_sensing.picture("A step of the link, half wave by half wave")
def settling(seen: Seen) -> Plot:
    """The output after the link falls by a tenth, with this gain and at the two limits."""
    a, half = seen.at("filter_memory"), 1 / (2 * seen.at("sense_frequency"))
    count = min(max(int(8 * seen.at("loop_filter") / half), 40), 400)
    series = []
    gains = (("this gain", seen.at("loop_gain"), "copper", False), ("without overshoot", seen.at("aperiodic_gain"), "slate", True))
    for name, gain, tone, dashed in gains:
        series.append(Series(name, np.arange(count) * half, 100 * np.sqrt(stepped_response(gain, a, count)), tone, dashed))  # type: ignore[arg-type]
    note = f"Filter {show(seen.at('loop_filter'), 's', 3)}: it rules how soon the output is back."
    return Plot("time", "s", "%", series, [Limit("set-point", 100.0)], note=note)


def stepped_response(gain: float, memory: float, count: int, link: float = 0.9) -> np.ndarray:
    """(V/V_set)² of the half waves after the link has fallen to `link` of what it was, the loop at rest before."""
    duty, reading, seen = 1.0, 1.0, np.empty(count)
    for k in range(count):
        seen[k] = link**2 * duty
        reading = memory * reading + (1 - memory) * seen[k]
        duty = min(max(duty + gain * (1 - reading), 0.0), 4.0)
    return seen
