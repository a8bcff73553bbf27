"""What the columns of each part type mean: unit, symbol, sentence. Catalogue files use these names."""

Columns = dict[str, tuple[str, str, str]]

_PRICE: Columns = {"price": ("credit", "c", "Price of one piece, in neutral credits."), "mass": ("kg", "m", "Mass of one piece.")}

MOSFET: Columns = {
    "rated_voltage": ("V", r"V_{DSS}", "Rated drain-source voltage."),
    "rated_current": ("A", r"I_{D,100}", "Rated drain current at a case of 100 °C."),
    "pulsed_current": ("A", r"I_{DM}", "Rated pulsed drain current."),
    "on_resistance": ("Ω", r"R_{25}", "On-resistance at 25 °C."),
    "temperature_coefficient": ("1/K", "a", "Rise of the on-resistance per kelvin."),
    "gate_charge": ("C", r"Q_g", "Total gate charge."),
    "charge_voltage": ("V", r"V_Q", "Gate voltage that the total gate charge is stated for."),
    "full_on_voltage": ("V", r"V_R", "Gate voltage from which the on-resistance is as stated."),
    "gate_drain_charge": ("C", r"Q_{gd}", "Gate-drain charge."),
    "input_capacitance": ("F", r"C_{iss}", "Input capacitance."),
    "output_capacitance": ("F", r"C_{oss}", "Energy-equivalent output capacitance."),
    "output_charge": ("C", r"Q_{oss}", "Output charge."),
    "recovery_charge": ("C", r"Q_{rr}", "Reverse recovery charge of the body diode at rated current."),
    "diode_voltage": ("V", r"V_F", "Forward voltage of the body diode."),
    "threshold_voltage": ("V", r"V_{th}", "Gate threshold voltage."),
    "transconductance": ("S", r"g_{fs}", "Forward transconductance."),
    "internal_gate_resistance": ("Ω", r"R_{g,int}", "Internal gate resistance."),
    "gate_rated_voltage": ("V", r"V_{GS,max}", "Highest allowed gate-source voltage."),
    "junction_resistance": ("K/W", r"R_{jc}", "Thermal resistance from junction to case."),
    "maximum_temperature": ("K_abs", r"T_{j,max}", "Highest junction temperature."),
    **_PRICE,
}

RECTIFIER: Columns = {
    "rated_voltage": ("V", r"V_{RRM}", "Rated repetitive reverse voltage."),
    "rated_current": ("A", r"I_{F,av}", "Rated average forward current."),
    "forward_voltage": ("V", r"V_F", "Forward voltage at rated current, hot."),
    "recovery_time": ("s", r"t_{rr}", "Reverse recovery time."),
    "recovery_charge": ("C", r"Q_{rr}", "Reverse recovery charge at rated current."),
    "junction_resistance": ("K/W", r"R_{jc}", "Thermal resistance from junction to case."),
    "maximum_temperature": ("K_abs", r"T_{j,max}", "Highest junction temperature."),
    **_PRICE,
}

CORE: Columns = {
    "effective_area": ("m^2", r"A_e", "Effective magnetic area."),
    "effective_length": ("m", r"l_e", "Effective magnetic length."),
    "effective_volume": ("m^3", r"V_e", "Effective magnetic volume."),
    "window_area": ("m^2", r"W_a", "Winding window of the bobbin."),
    "winding_breadth": ("m", r"b_w", "Breadth of the winding on the bobbin."),
    "mean_turn_length": ("m", r"l_T", "Mean length of a turn."),
    "surface_area": ("m^2", r"A_t", "Whole outer surface of the core set with its winding."),
    "thermal_resistance": ("K/W", r"R_{th}", "Thermal resistance to still air."),
    "inductance_factor": ("H", r"A_L", "Inductance of one turn, ungapped."),
    **_PRICE,
}

FERRITE: Columns = {
    "steinmetz_coefficient": ("steinmetz", r"k_{fe}", "Steinmetz coefficient (W/m³ with Hz and T)."),
    "frequency_exponent": ("", r"\alpha", "Steinmetz exponent of frequency."),
    "flux_exponent": ("", r"\beta", "Steinmetz exponent of flux density."),
    "saturation_flux": ("T", r"B_{sat}", "Saturation flux density at 100 °C."),
    "maximum_frequency": ("Hz", r"f_{max}", "Highest frequency the material is meant for."),
    **_PRICE,
}

WIRE: Columns = {"diameter": ("m", "d", "Diameter of the bare wire."), "insulated_diameter": ("m", r"d_i", "Diameter over the enamel."), **_PRICE}

CAPACITOR: Columns = {
    "capacitance": ("F", "C", "Capacitance of one."),
    "rated_voltage": ("V", r"V_R", "Rated voltage (for AC film: rms)."),
    "rated_ripple_current": ("A", r"I_R", "Rated rms ripple current of one."),
    "series_resistance": ("Ω", r"\mathrm{ESR}", "Equivalent series resistance of one."),
    **_PRICE,
}

FUSE: Columns = {
    "rated_current": ("A", r"I_N", "Rated current."),
    "rated_voltage": ("V", r"U_N", "Rated DC voltage."),
    "breaking_capacity": ("A", r"I_1", "Breaking capacity."),
    "carried_overload": ("", r"k_{10}", "Multiple of its rating that it carries for ten seconds."),
    "carried_short": ("", r"k_{0.01}", "Multiple of its rating that it carries for ten milliseconds."),
    **_PRICE,
}

PART_TYPES: dict[str, Columns] = {
    "mosfet": MOSFET,
    "rectifier": RECTIFIER,
    "core": CORE,
    "ferrite": FERRITE,
    "wire": WIRE,
    "bulk": CAPACITOR,
    "link": CAPACITOR,
    "film": CAPACITOR,
    "fuse": FUSE,
}
