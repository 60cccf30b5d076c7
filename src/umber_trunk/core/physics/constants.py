"""Physical constants, each named once with its source."""

G_M_S2 = 9.80665  # standard gravity; this and the next two as in CODATA 2018, tested against SciPy's table
STEFAN_BOLTZMANN = 5.6703744191844314e-08
"""W/m²K⁴, CODATA 2018."""
ZERO_C_K = 273.15
"""0 °C in kelvin, exactly."""
EMISSIVITY_JACKET = 0.9  # matt polymer jackets, usual handbook value
FILLING_W_MK = 0.08  # air and touching jackets between packed wires; fitted to IEC 60364-5-52 table B.52.17
SLEEVE_W_MK = 0.2  # braid, tape and shrink: polymers 0.17 to 0.29
JACKET_DENSITY_KG_M3 = 1350.0  # PVC compounds 1250 to 1450
JACKET_HEAT_J_KG_K = 1100.0  # PVC compounds 900 to 1300
PRESSURE_PA = 101_325.0
"""Air at sea level (ISO 2533)."""
GAS_AIR_J_KG_K = 287.05
"""Gas constant of dry air (ISO 2533)."""
CP_AIR_J_KG_K = 1006.0
"""Heat of air at constant pressure, 0 to 100 °C."""
