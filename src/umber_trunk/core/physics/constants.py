"""Physical constants, each named once with its source."""

from scipy import constants

G_M_S2: float = constants.g
STEFAN_BOLTZMANN: float = constants.sigma
ZERO_C_K: float = constants.zero_Celsius
EMISSIVITY_JACKET = 0.9  # matt polymer jackets, usual handbook value
FILLING_W_MK = 0.08  # air and touching jackets between packed wires; fitted to IEC 60364-5-52 table B.52.17
SLEEVE_W_MK = 0.2  # braid, tape and shrink: polymers 0.17 to 0.29
JACKET_DENSITY_KG_M3 = 1350.0  # PVC compounds 1250 to 1450
JACKET_HEAT_J_KG_K = 1100.0  # PVC compounds 900 to 1300
PRESSURE_PA = 101_325.0
GAS_AIR_J_KG_K = 287.05
CP_AIR_J_KG_K = 1006.0
