"""The words lists use: column titles and colours in English, German, French and Spanish."""

from __future__ import annotations

FIELDS = {
    "wire": "wire number", "name": "name or signal", "circuit": "circuit", "from": "from", "from-pin": "from pin",
    "to": "to", "to-pin": "to pin", "size": "size", "colour": "colour", "stripe": "stripe", "length": "length",
}  # fmt: skip
"""What a column can hold → how it is called on screen. The keys are those of `--column`."""

_PIN = r"(?:pin|cavity|cav|terminal|term|pos|position|way|contact|terminal no|pin no|klemme|anschluss|kontakt|kammer|broche|borne|borna|contacto|posición|posicion)"
_FROM = r"(?:from|source|start|origin|end 1|end a|side a|side 1|a|von|quelle|anfang|ziel 1|seite a|de|depuis|origine|départ|depart|desde|origen|inicio)"
_TO = r"(?:to|dest|destination|target|finish|end 2|end b|side b|side 2|b|nach|ziel|ende|ziel 2|seite b|à|vers|arrivée|arrivee|hasta|hacia|destino|fin)"
_THING = r"(?:device|connector|conn|end|component|location|unit|gerät|geraet|stecker|bauteil|betriebsmittel|appareil|connecteur|équipement|equipement|equipo|conector|dispositivo)"

TITLES: dict[str, str] = {
    "from-pin": rf"{_FROM} {_PIN}|{_PIN} (?:a|1|from|von|de|desde)",
    "to-pin": rf"{_TO} {_PIN}|{_PIN} (?:b|2|to|nach|vers|hasta|à)",
    "pin": _PIN,
    "from": rf"{_FROM}|{_FROM} {_THING}|{_THING} (?:a|1|from|von|de|desde)",
    "to": rf"{_TO}|{_TO} {_THING}|{_THING} (?:b|2|to|nach|vers|hasta)",
    "wire": r"wire (?:no|nr|number|id|name|label|tag|#)|wire|no|nr|number|id|#|item|pos|tag|label|cable (?:no|id)|lead|ref|"
    r"(?:ader|draht|leitung|kabel)(?: ?(?:nr|nummer|no))?|adernummer|drahtnummer|leitungsnummer|lfd nr|"
    r"fil(?: n°| no| numéro)?|n° ?(?:de )?fil|numéro(?: de fil)?|n°|repère|repere|cable|câble|conducteur|hilo|nº|nº hilo|número(?: de hilo)?|conductor no",
    "name": r"signal|function|net|net name|signal name|signalname|funktion|potential|fonction|désignation|función|señal|senal",
    "description": r"description|desc|name|purpose|beschreibung|bezeichnung|benennung|descripción|descripcion|nombre|nom",
    "remark": r"remarks?|notes?|comments?|bemerkung(?:en)?|kommentar|anmerkung|remarques?|observations?|observaciones|notas?",
    "circuit": r"circuit|circuit (?:no|id|name)|group|system|stromkreis|kreis|baugruppe|circuito|groupe|grupo",
    "size": r"size|wire size|gauge|wire gauge|gage|awg|csa|cross section|cross-section|section|area|mm2|mm²|conductor|sqmm|conductor size|"
    r"querschnitt|leiterquerschnitt|qs|aderquerschnitt|section(?: du fil)?|calibre|sección|seccion|sección transversal",
    "colour": r"colou?r(?: 1)?|wire colou?r|base colou?r|col|clr|main colou?r|insulation colou?r|farbe|aderfarbe|grundfarbe|couleur|color|colour code|colou?r code|teinte",
    "stripe": r"colou?r 2|stripe|tracer|stripe colou?r|second colou?r|trace|streifen|kennfarbe|zweitfarbe|liseré|lisere|deuxième couleur|raya|franja|segundo color",
    "length": r"length|wire length|len|cut length|run|run length|distance|finished length|länge|laenge|leitungslänge|zuschnitt|longueur|long|longitud|largo",
}  # fmt: skip
"""Column meaning → pattern its whole plain title has to match. The first that matches counts."""

LENGTH_WORDS = r"mm|cm|m|ft|in|inch(?:es)?|feet|yd|metres?|meters?|zoll"
SIZE_WORDS = r"mm2|mm²|mm\^2|sqmm|sq mm|mm|awg|gauge|gage|ga|kcmil"

TOTALS = (
    r"(?:sub-?\s?|grand\s+)?totals?|sum|summe|zwischensumme|gesamt|gesamtlänge|insgesamt|sous-total|total général|somme|"
    r"suma|subtotal|total general|carried forward|übertrag|report"
)

COLOURS: dict[str, dict[str, str]] = {
    "en": {
        "BK": "black", "BN": "brown", "RD": "red", "OG": "orange", "YE": "yellow", "GN": "green", "BU": "blue",
        "VT": "violet", "GY": "grey", "WH": "white", "PK": "pink", "TQ": "turquoise", "BLK": "black", "BLU": "blue",
        "BRN": "brown", "GRN": "green", "GRY": "grey", "ORG": "orange", "ORN": "orange", "PNK": "pink",
        "VIO": "violet", "PUR": "violet", "PPL": "violet", "WHT": "white", "YEL": "yellow", "BR": "brown", "OR": "orange",
        "YL": "yellow", "VI": "violet", "LB": "light blue", "LG": "light green", "TN": "tan", "PU": "violet",
        "B": "black", "R": "red", "W": "white", "G": "green", "Y": "yellow", "O": "orange", "P": "pink", "V": "violet",
        "L": "blue", "BL": "blue", "GR": "green", "GY/GN": "green/yellow",
    },
    "de": {
        "SW": "black", "BR": "brown", "RT": "red", "OR": "orange", "GE": "yellow", "GN": "green", "BL": "blue",
        "VI": "violet", "GR": "grey", "WS": "white", "RS": "pink", "TK": "turquoise", "BE": "beige",
    },
    "fr": {
        "NO": "black", "NR": "black", "MR": "brown", "MA": "brown", "RG": "red", "RO": "red", "OR": "orange",
        "JA": "yellow", "JN": "yellow", "VE": "green", "VR": "green", "BE": "blue", "BL": "blue", "VI": "violet", "GR": "grey",
        "BA": "white", "BC": "white", "RS": "pink", "TQ": "turquoise",
    },
    "es": {
        "NE": "black", "NG": "black", "MA": "brown", "MR": "brown", "RO": "red", "RJ": "red", "NA": "orange",
        "AM": "yellow", "VE": "green", "VD": "green", "AZ": "blue", "VI": "violet", "GR": "grey", "BL": "white",
        "BC": "white", "RS": "pink", "TQ": "turquoise",
    },
}  # fmt: skip
"""Language → code → colour word. Codes of IEC 60757 stand under English."""

COLOUR_WORDS: dict[str, str] = {
    **{word: word for word in (
        "black", "brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white", "pink", "turquoise",
        "tan", "beige",
    )},
    "gray": "grey", "purple": "violet", "clear": "clear", "light blue": "light blue", "light green": "light green",
    "dark blue": "dark blue", "dark green": "dark green", "green-yellow": "green/yellow",
    "schwarz": "black", "braun": "brown", "rot": "red", "gelb": "yellow", "grün": "green", "gruen": "green", "blau": "blue",
    "violett": "violet", "lila": "violet", "grau": "grey", "weiß": "white", "weiss": "white", "rosa": "pink", "türkis": "turquoise",
    "hellblau": "light blue", "dunkelblau": "dark blue",
    "noir": "black", "brun": "brown", "marron": "brown", "rouge": "red", "jaune": "yellow", "vert": "green", "bleu": "blue",
    "violet": "violet", "gris": "grey", "blanc": "white", "rose": "pink", "bleu clair": "light blue",
    "negro": "black", "marrón": "brown", "rojo": "red", "naranja": "orange", "amarillo": "yellow", "verde": "green", "azul": "blue",
    "violeta": "violet", "morado": "violet", "blanco": "white", "turquesa": "turquoise", "celeste": "light blue",
}  # fmt: skip
