"""What each waveform may feed (judgement), row by row of the load list."""

WAVEFORMS = ("square", "stepped", "sine", "high-frequency AC", "DC link")

# yes / no / with a condition; `people` marks where a wrong choice harms people.
SUITABILITY: dict[str, dict[str, str]] = {
    "heater": {
        "square": "yes, if its rms is matched",
        "stepped": "yes",
        "sine": "yes",
        "high-frequency AC": "no: switch and thermostat are not made for it",
        "DC link": "no: contacts rated for AC do not break DC, the arc stays (people)",
    },
    "filament_lamp": {
        "square": "yes, if its rms is matched",
        "stepped": "yes",
        "sine": "yes",
        "high-frequency AC": "yes",
        "DC link": "yes, up to its rated rms voltage",
    },
    "rectifier": {
        "square": "only if the peak suits",
        "stepped": "yes",
        "sine": "yes",
        "high-frequency AC": "no: its diodes are too slow",
        "DC link": "yes, if the input has no AC-only part",
    },
    "active_pfc": {"square": "may trip", "stepped": "often trips", "sine": "yes", "high-frequency AC": "no", "DC link": "ask the maker"},
    "induction_motor": {"square": "no", "stepped": "derate by 25 to 50 %: hot, noisy", "sine": "yes", "high-frequency AC": "no", "DC link": "no"},
    "universal_motor": {
        "square": "hot, noisy",
        "stepped": "usually, derate",
        "sine": "yes",
        "high-frequency AC": "no",
        "DC link": "only without an AC switch in the path",
    },
    "transformer_input": {"square": "no: saturation and peak", "stepped": "no, unless tested", "sine": "yes", "high-frequency AC": "no", "DC link": "never"},
}
