"""Colours of wires as lists write them: words in ten languages, codes of IEC 60757 and of national habit, letters."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass
from functools import lru_cache

from umber_trunk.core.sentences import joined
from umber_trunk.store.listing.doubts import Questions, doubt, named
from umber_trunk.store.listing.words import folded

NO_PIN = frozenset(("—", "?", "n/a", "N/A", "tbd", "TBD"))
"""What says in a pin's cell that there is none: “-” is a pole."""
NOTHING = NO_PIN | {"", "-", "–"}
EARTH = "green/yellow"

COLOURS: dict[str, dict[str, str]] = {
    "en": {
        "BK": "black", "BN": "brown", "RD": "red", "OG": "orange", "YE": "yellow", "GN": "green", "BU": "blue",
        "VT": "violet", "GY": "grey", "WH": "white", "PK": "pink", "TQ": "turquoise", "BLK": "black", "BLU": "blue",
        "BRN": "brown", "GRN": "green", "GRY": "grey", "GRA": "grey", "ORG": "orange", "ORN": "orange", "PNK": "pink", "TAN": "tan",
        "VIO": "violet", "PUR": "violet", "PPL": "violet", "WHT": "white", "YEL": "yellow", "BR": "brown", "OR": "orange",
        "YL": "yellow", "VI": "violet", "LB": "light blue", "LG": "light green", "DB": "dark blue", "DG": "dark green", "TN": "tan", "PU": "violet",
        "SB": "light blue", "B": "black", "R": "red", "W": "white", "G": "green", "Y": "yellow", "O": "orange", "P": "pink", "V": "violet",
        "L": "blue", "T": "tan", "N": "brown", "S": "grey", "BL": "blue", "GR": "green", "GD": "gold", "SR": "silver",
    },
    "de": {
        "SW": "black", "BR": "brown", "RT": "red", "OR": "orange", "GE": "yellow", "GN": "green", "BL": "blue",
        "VI": "violet", "GR": "grey", "WS": "white", "RS": "pink", "TK": "turquoise", "BE": "beige", "HBL": "light blue", "DBL": "dark blue", "HGN": "light green",
    },
    "fr": {
        "NO": "black", "NR": "black", "MR": "brown", "MA": "brown", "RG": "red", "RO": "red", "OR": "orange",
        "JA": "yellow", "JN": "yellow", "VE": "green", "VR": "green", "BE": "blue", "BL": "blue", "VI": "violet", "GR": "grey",
        "BA": "white", "BC": "white", "RS": "pink", "TQ": "turquoise", "N": "black", "J": "yellow", "R": "red", "V": "green",
    },
    "es": {
        "NE": "black", "NG": "black", "MA": "brown", "MR": "brown", "RO": "red", "RJ": "red", "NA": "orange",
        "AM": "yellow", "VE": "green", "VD": "green", "AZ": "blue", "VI": "violet", "GR": "grey", "BL": "white",
        "BC": "white", "RS": "pink", "TQ": "turquoise", "V": "green", "A": "yellow", "N": "black", "R": "red",
    },
    "it": {
        "NE": "black", "MA": "brown", "RO": "red", "AR": "orange", "GI": "yellow", "VE": "green", "BL": "blue", "AZ": "light blue",
        "VI": "violet", "GR": "grey", "BI": "white", "RS": "pink", "N": "black", "R": "red", "G": "yellow", "V": "green", "M": "brown",
    },
    "pt": {
        "PT": "black", "PR": "black", "MR": "brown", "CS": "brown", "VM": "red", "LR": "orange", "AM": "yellow", "VD": "green", "AZ": "blue",
        "RX": "violet", "CZ": "grey", "BR": "white", "RS": "pink", "V": "green", "A": "yellow",
    },
    "nl": {
        "ZW": "black", "BR": "brown", "RD": "red", "OR": "orange", "GE": "yellow", "GN": "green", "BL": "blue", "PA": "violet", "VI": "violet",
        "GR": "grey", "WT": "white", "RZ": "pink",
    },
    "pl": {
        "CZ": "black", "CZA": "black", "BR": "brown", "CZE": "red", "CW": "red", "PO": "orange", "ZO": "yellow", "ŻO": "yellow", "ŻÓ": "yellow", "ZI": "green",
        "NI": "blue", "FI": "violet", "SZ": "grey", "BI": "white", "RÓ": "pink", "NIE": "blue", "ZIE": "green", "ŻÓŁ": "yellow", "ZOL": "yellow", "BIA": "white", "SZA": "grey", "BRA": "brown", "BRĄ": "brown", "POM": "orange",
    },
    "sv": {
        "SV": "black", "BR": "brown", "RÖ": "red", "RO": "red", "OR": "orange", "GU": "yellow", "GL": "yellow", "GR": "green", "GÖ": "green", "BL": "blue", "BÅ": "blue",
        "VI": "white", "VT": "white", "GRÅ": "grey", "GÅ": "grey", "LI": "violet", "RS": "pink",
    },
    "cs": {
        "ČE": "black", "CE": "black", "HN": "brown", "RU": "red", "ČV": "red", "CV": "red", "OR": "orange", "ŽL": "yellow", "ZL": "yellow", "ZE": "green", "MO": "blue",
        "FI": "violet", "ŠE": "grey", "SE": "grey", "BÍ": "white", "BI": "white", "RŮ": "pink",
    },
}  # fmt: skip
"""Language → code → colour word. Codes of IEC 60757 and the letters of American lists stand under English."""

_WORDS = {
    "black": "black blk schwarz noir noire negro negra nero nera preto preta zwart czarny czarna czarne svart cerny cerna cerne",
    "brown": "brown braun brun brune marron maron marrone castanho castanha bruin brazowy brazowa hnedy hneda hnede brunt cafe",
    "red": "red rot rouge rojo roja rosso rossa vermelho vermelha encarnado rood czerwony czerwona rod rott cerveny cervena rudy ruda",
    "orange": "orange naranja arancio arancione laranja oranje pomaranczowy pomaranczowa oranzovy oranzova brandgul",
    "yellow": "yellow gelb jaune amarillo amarilla giallo gialla amarelo amarela geel zolty zolta zluty zluta gul gult",
    "green": "green grun gruen vert verte verde groen zielony zielona gron gront zeleny zelena",
    "blue": "blue blau bleu bleue azul blu blauw niebieski niebieska bla blatt modry modra",
    "violet": "violet violett violette purple lila violeta morado morada viola roxo roxa paars fioletowy fioletowa fialovy fialova mauve lilla",
    "grey": "grey gray grau gris grise grigio grigia cinza cinzento cinzenta grijs szary szara gra gratt sedy seda",
    "white": "white weiss blanc blanche blanco blanca bianco bianca branco branca wit bialy biala vit vitt bily bila",
    "pink": "pink rosa rose roze rozowy rozowa ruzovy ruzova",
    "turquoise": "turquoise turkis tuerkis turquesa turchese turkoois turkusowy turkos tyrkysovy",
    "beige": "beige bezowy bezova", "tan": "tan", "clear": "clear transparent transparente farblos klar", "gold": "gold", "silver": "silver silber",
    "light blue": "celeste azzurro azzurra celestre himmelblau", "bare": "bare blank nu desnudo nudo",
}  # fmt: skip
COLOUR_WORDS: dict[str, str] = {word: colour for colour, words in _WORDS.items() for word in words.split()} | {
    "cor de rosa": "pink"
}
"""Colour word, folded → its English one."""
_STEMS = {
    "zeleno": "green", "zluto": "yellow", "zolto": "yellow", "zielono": "green", "modro": "blue", "bialo": "white", "bilo": "white", "czarno": "black", "cerno": "black",
    "czerwono": "red", "cerveno": "red", "niebiesko": "blue", "szaro": "grey", "sedo": "grey", "hnedo": "brown", "verdi": "green", "brazowo": "brown",
}  # fmt: skip
_SHADES = {
    "light": "light lt hell clair claire claro clara chiaro chiara licht lys ljus jasno jasny jasna svetle svetly "
    "svetla pale",
    "dark": "dark dk dunkel fonce foncee oscuro oscura scuro scura escuro escura donker mork ciemno ciemny ciemna "
    "tmave tmavy tmava",
}
_SHADE = {word: shade for shade, words in _SHADES.items() for word in words.split()}
_EARTHS = frozenset(
    (
        "PE",
        "GNYE",
        "YEGN",
        "GNGE",
        "GEGN",
        "VEJA",
        "JAVE",
        "V/J",
        "J/V",
        "VJ",
        "GN/YE",
        "GNGL",
        "G/GN",
        "GRGE",
        "EARTH",
        "ZŽ",
        "ŽZ",
        "ZŻ",
        "ŻZ",
    )
)


@lru_cache(maxsize=20_000)
def colour_word(text: str) -> str | None:
    """The English word for a colour in words, "hellblau" → "light blue", "zelenožlutá" → "green/yellow"; None for
    others."""
    plain = " ".join(folded(text).replace("-", " ").split())
    if plain in COLOUR_WORDS or plain in _STEMS:
        return COLOUR_WORDS.get(plain) or _STEMS[plain]
    parts = plain.split()
    if len(parts) == 2:
        first, second = parts
        for shade, other in ((first, second), (second, first)):
            if shade in _SHADE and other in COLOUR_WORDS:
                return f"{_SHADE[shade]} {COLOUR_WORDS[other]}"
    for at in range(3, len(plain) - 2):
        head, tail = plain[:at], plain[at:]
        if head in _SHADE and tail in COLOUR_WORDS:
            return f"{_SHADE[head]} {COLOUR_WORDS[tail]}"
        base = _STEMS.get(head) or COLOUR_WORDS.get(head)
        if base and tail in COLOUR_WORDS and COLOUR_WORDS[tail] != base:
            return f"{base}/{COLOUR_WORDS[tail]}"
    return None


@dataclass(frozen=True)
class ColourRules:
    """Languages whose codes the column may use, the likeliest first, and what codes with two meanings stand for."""

    languages: tuple[str, ...]
    chosen: Mapping[str, str]


_EITHER = {
    "GR": ("green", "grey"), "BL": ("blue", "black"), "P": ("pink", "violet"), "B": ("black", "blue", "brown"),
    "G": ("green", "grey"), "S": ("grey", "silver"), "N": ("brown", "black"),
}  # fmt: skip
"""Codes that shops use for more than one colour, the usual first."""
_OPEN = ("GR", "BL", "P")  # those that no one can tell by themselves


def colour_rules(
    cells: Sequence[tuple[str, int]], headers: Sequence[str], asked: Questions, column: int
) -> ColourRules:
    """Which language a column's colour codes are in. A code with two meanings in this list is asked about, unless the
    list's other codes leave it but one. Cells come with their rows."""
    parts = {part for cell in {cell for cell, _ in cells} for part in _colour_parts(cell) if not colour_word(part)}
    known = {code for code in map(str.upper, parts) if any(code in table for table in COLOURS.values())}
    rank, fitting = _languages(known, headers)
    chosen = {}
    for code in sorted(known):
        means, likeliest = _meanings(code, known, fitting)
        if len(means) == 1 and likeliest:
            chosen[code] = likeliest
        elif len(means) > 1:
            chosen[code] = asked.ask(
                doubt(
                    f"colour:{code}",
                    map(named, means),
                    likeliest,
                    f"--answer colour:{code}={{}}",
                    column,
                    [row for cell, row in cells if code in [part.upper() for part in _colour_parts(cell)]],
                    code=code,
                    meanings=joined("any.and", list(means)),
                )
            )
    return ColourRules((*fitting, *(lang for lang in rank if lang not in fitting)), chosen)


def _languages(known: Set[str], headers: Sequence[str]) -> tuple[list[str], tuple[str, ...]]:
    """(all languages, the likeliest first; those that could be the list's): which tables have most of its codes, and of
    these the one its titles are in; English where nothing tells."""
    fit = {lang: len([code for code in known if code in COLOURS[lang]]) for lang in COLOURS}
    speaks = {lang: _speaks(headers, lang) for lang in COLOURS}
    rank = sorted(COLOURS, key=lambda lang: (-fit[lang], -speaks[lang], lang != "en"))
    fitting = tuple(lang for lang in rank if fit[lang] == fit[rank[0]])
    spoken = max(speaks[lang] for lang in fitting)
    if spoken:
        fitting = tuple(lang for lang in fitting if speaks[lang] == spoken)
    elif "en" in fitting and len(known) > 1:
        fitting = ("en",)
    return rank, fitting


def _meanings(code: str, known: Set[str], fitting: Sequence[str]) -> tuple[dict[str, None], str]:
    """(what a code may mean, what it likeliest does): nothing likely where it means the one thing its table says. Of an
    English code with two uses the one goes that another code of the list has."""
    usual = COLOURS[fitting[0]].get(code)
    others = {COLOURS[fitting[0]].get(other) for other in known - {code}}
    means = dict.fromkeys(COLOURS[lang][code] for lang in fitting if code in COLOURS[lang])
    english = tuple(fitting) == ("en",)
    either = _EITHER.get(code, ()) if english else ()
    if either and (code in _OPEN or usual in others):
        left = [word for word in either if word not in others]
        if len(left) == 1 and len(left) < len(either):
            return dict.fromkeys(left), left[0]
        means = dict.fromkeys(left or either)
    if len(means) < 2:
        return means, ""
    if english or len(fitting) > 1:
        means |= dict.fromkeys(COLOURS[lang][code] for lang in COLOURS if code in COLOURS[lang])
    return means, usual if usual is not None and usual in means else next(iter(means))


_TONGUE = {
    "de": "von nach farbe lange laenge querschnitt klemme ader stecker leitung nr bemerkung", "fr": "de vers couleur longueur fil repere borne depuis",
    "es": "desde hasta hacia longitud hilo seccion borna largo", "it": "da colore lunghezza filo sezione morsetto connettore",
    "pt": "para cor comprimento fio seccao secao bitola pino origem", "nl": "van naar kleur lengte draad doorsnede klem",
    "pl": "kolor dlugosc przewod przekroj zacisk skad dokad", "sv": "fran till farg langd ledare plint", "cs": "barva delka vodic prurez svorka odkud kam",
    "en": "from to colour color length wire size gauge pin signal",
}  # fmt: skip


def _speaks(headers: Sequence[str], language: str) -> int:
    words = set(re.findall(r"\w+", folded(" ".join(headers))))
    return len(words & set(_TONGUE[language].split()))


_CODES = frozenset(code for table in COLOURS.values() for code in table)


def is_colour(text: str) -> bool:
    """Whether a text is nothing but a colour, in words or codes of two letters and more."""
    parts = _colour_parts(text)
    return bool(parts) and all(
        colour_word(part) is not None or (len(part) > 1 and part.upper() in _CODES) or part.upper() in _EARTHS
        for part in parts
    )


def _colour_parts(text: str) -> list[str]:
    """The colours of a cell, base first."""
    tidy = text.strip()
    named = re.fullmatch(r"(.+?)\s*\(([^)]*)\)", tidy)
    if named and colour_word(named[1]):
        return _colour_parts(named[1])  # “red (RD)”
    if tidy.upper() in _EARTHS or colour_word(tidy):
        return [tidy]
    parts = [
        part
        for part in re.split(
            r"\s*[/\-,+|]\s*|\s+(?:with|mit|avec|con|com|met|med|and|und|et|e|y|z|s)\s+"
            r"|\s+(?:stripe|streifen|tracer)\b",
            tidy,
        )
        if part
    ]
    if len(parts) == 1 and re.fullmatch(r"[A-Z]{4}", parts[0]) and {parts[0][:2], parts[0][2:]} <= _CODES:
        parts = [parts[0][:2], parts[0][2:]]
    if len(parts) == 1 and " " in parts[0]:
        words = parts[0].split()
        if all(word.upper() in _CODES or colour_word(word) for word in words):
            parts = words
    return parts


def colour_cell(text: str, rules: ColourRules) -> tuple[str, str]:
    """(colour, stripe) in words from "RD/WH", "rot-weiß", "BK"; words nobody knows stay as they are."""
    if text in NOTHING:
        return "", ""
    if text.strip().upper() in _EARTHS:
        return "green", "yellow"
    words = []
    for part in _colour_parts(text):
        code = part.upper()
        word = colour_word(part) or rules.chosen.get(code)
        word = word or next((COLOURS[lang][code] for lang in rules.languages if code in COLOURS[lang]), None)
        words.append(word or part.lower())
    if len(words) == 1 and "/" in words[0]:
        words = words[0].split("/")
    words = list(dict.fromkeys(words))  # “BK - black”
    if len(words) > 2:
        return text.lower(), ""
    return (words[0] if words else "", words[1] if len(words) > 1 else "")
