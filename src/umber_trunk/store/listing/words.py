"""The words lists use for what their columns hold, in ten languages; accents and capitals don't count."""

from __future__ import annotations

import unicodedata

from umber_trunk.core.sentences import Message

FIELDS = (
    "wire", "name", "circuit", "from", "from-pin", "to", "to-pin", "both", "size", "size-also", "colour", "stripe", "length", "unit", "count", "cable", "core", "pair", "screen",
)  # fmt: skip
"""What a column can hold, by the keys of `--column`."""


def field_said(name: str) -> Message:
    """How a field is called on screen."""
    return Message.of(f"list.field.{name}")


def folded(text: str) -> str:
    """Lower case without accents, so that “dlugosc” and “Długość” are one word."""
    if text.isascii():
        return text.lower()
    bare = "".join(mark for mark in unicodedata.normalize("NFD", text.lower()) if not unicodedata.combining(mark))
    return bare.replace("ł", "l").replace("ß", "ss").replace("ø", "o")


_PIN = folded(
    r"(?:pins?|cavity|cav|terminal|term|pos|position|way|contact|terminal no|pin (?:no|nr|#|number|nummer)|"
    r"pinnr|pole|klemme|kl|klemmen? ?(?:nr|nummer)?|anschluss|kontakt|kammer|pol|broche|borne|voie|borna|"
    r"contacto|pata|posición|morsetto|contatto|polo|cavità|pino|cavidade|klem|aansluiting|pen|pool|zacisk|"
    r"styk|stift|plint|klämma|pinne|svorka|vývod)"
)
_FROM = folded(
    r"(?:from|source|start|origin|end 1|end a|side a|side 1|point a|point 1|a|von|quelle|anfang|ziel 1|"
    r"seite a|seite 1|ende 1|ende a|de|depuis|origine|départ|tenant|desde|origen|inicio|da|partenza|inizio|"
    r"origem|início|van|begin|od|z|skąd|początek|från|odkud|začátek)"
)
_TO = folded(
    r"(?:to|dest|destination|target|finish|end|end 2|end b|side b|side 2|point b|point 2|b|goes to|"
    r"connects to|nach|ziel|ende|ziel 2|seite b|seite 2|ende 2|ende b|à|vers|arrivée|aboutissant|hasta|hacia|"
    r"destino|fin|arrivo|destinazione|para|até|naar|eind|einde|bestemming|do|dokąd|koniec|till|mål|kam|konec)"
)
_THING = folded(
    r"(?:device|connector|conn|plug|component|location|item|housing|equipment|gerät|geraet|stecker|bauteil|"
    r"betriebsmittel|ort|appareil|connecteur|équipement|equipo|conector|dispositivo|connettore|apparecchio|"
    r"componente|conector|toestel|stekker|component|złącze|urządzenie|don|kontaktdon|apparat|konektor|"
    r"zařízení)"
)
_NUMBER = r"(?:no|nr|number|id|#|n°|nº|č|num|nummer|numer|número)"
_WIRE_WORD = (
    r"(?:wire|lead|conductor|ader|draht|leitung|fil|conducteur|hilo|conductor|filo|conduttore|fio|condutor|"
    r"draad|przewód|przewod|ledare|tråd|ledning|vodič|drát)"
)
_CABLE_WORD = r"(?:cable|kabel|câble|cavo|cabo|kabl?e?l?)"
_CORE_WORD = r"(?:core|ader|brin|âme|conductor|alma|anima|veia|żyła|kardel|part|žíla|wire|draht|fil|leiter)"

CABLE_TITLE = folded(rf"{_CABLE_WORD}(?: ?{_NUMBER})?")
"""A title that names the cable, where another of the same list names its core."""
CORE_TITLE = folded(rf"(?:{_CORE_WORD}|{_WIRE_WORD})(?: ?{_NUMBER})?|core colou?r|aderkennung|adernummer|adernr")
WIRE_TITLE = folded(rf"{_WIRE_WORD}(?: ?{_NUMBER})?")
"""Of titles of cores those that are the wire's own where another names the core."""
CONDUCTOR_TITLE = folded(
    rf"(?:{_WIRE_WORD}|{_CORE_WORD}|colou?r|farbe|couleur|color|colore) "
    r"?(a|b|c|d|[1-6]|\+|-|pos|neg|hi|lo|high|low|h|l)"
)
"""A title that names one of several conductors of each row."""

TITLES: dict[str, str] = {
    "both": folded(
        r"from ?[-/>→]* ?to|from and to|connections?|route|path|between|run between|von ?[-/>]* ?nach|"
        r"verbindung|strecke|liaison|trajet|conexi[oó]n|collegamento|percorso|liga[cç][aã]o|verbinding|"
        r"po[lł][aą]czenie|anslutning|f[oö]rbindelse|spojen[ií]|z ?[-/]* ?do|de ?[-/]* ?[aà]|da ?[-/]* ?a"
    ),
    "from-pin": rf"{_FROM} (?:{_THING} )?{_PIN}|{_PIN} (?:a|1|from|von|de|desde|da|van|od|fran)|(?:a|1) {_PIN}",
    "to-pin": rf"{_TO} (?:{_THING} )?{_PIN}|{_PIN} (?:b|2|to|nach|vers|hasta|a|naar|do|till|para)|(?:b|2) {_PIN}",
    "pin": _PIN,
    "from": rf"{_FROM}|{_FROM} {_THING}|{_THING} (?:a|1|from|von|de|desde|da|van|od|fran)|(?:a|1) (?:{_THING}|end|ende|side)",
    "to": rf"{_TO}|{_TO} {_THING}|{_THING} (?:b|2|to|nach|vers|hasta|naar|do|till|para)|(?:b|2) (?:{_THING}|end|ende|side)",
    "wire": folded(
        rf"wire (?:no|nr|number|id|name|label|tag|#)|wire|no|nr|number|id|#|item no|pos no|tag|label|cable (?:no|id)|lead|ref|"
        rf"(?:ader|draht|leitung|kabel)(?: ?(?:nr|nummer|no))?|adernummer|drahtnummer|leitungsnummer|lfd nr|"
        rf"fil(?: n°| no| numéro)?|n° ?(?:de )?fil|numéro(?: de fil)?|n°|repère|cable|câble|conducteur|hilo|nº|nº hilo|número(?: de hilo)?|"
        rf"conductor no|{_WIRE_WORD}(?: ?{_NUMBER})?|{_NUMBER} {_WIRE_WORD}u?|(?:nr|č) (?:przewodu|vodiče)|cavo|cabo|lp|poř|löpnr|draadnummer|item|pos"
    ),
    "name": folded(
        r"signal|function|net|net name|signal name|signalname|funktion|potential|fonction|désignation|función|"
        r"señal|funzione|segnale|função|sinal|functie|signaal|sygnał|funkcja|signál|funkce|circuit function"
    ),
    "description": folded(
        r"description|desc|name|purpose|beschreibung|bezeichnung|benennung|descripción|nombre|nom|descrizione|"
        r"descrição|nome|omschrijving|naam|opis|nazwa|beskrivning|namn|popis|název|used for|what|use"
    ),
    "remark": folded(
        r"remarks?|notes?|comments?|bemerkung(?:en)?|kommentar|anmerkung|remarques?|observations?|"
        r"observaciones|notas?|osservazioni|observações|opmerking(?:en)?|uwagi|anmärkning(?:ar)?|poznámk[ay]"
    ),
    "circuit": folded(
        r"circuit|circuit (?:no|id|name)|group|system|stromkreis|kreis|baugruppe|circuito|groupe|grupo|gruppo|"
        r"kring|groep|obwód|krets|grupp|okruh|obvod"
    ),
    "pair": folded(
    r"pair|twisted ?(?:pair|with)?|twist(?: with)?|tp|paar|verdrillt(?: mit)?|paire|torsad[eé]e? ?(?:avec)?|"
    r"par|coppia|parvis|para|pár|twisted pair (?:no|id)"
),
    "screen": folded(
    r"screen(?:ed)?|shield(?:ed)?|schirm|geschirmt|blindage|blind[ée]|pantalla|apantallado|schermo|schermato|"
    r"blindagem|afscherming|ekran|skärm|stínění"
),
    "size": folded(
        r"size|wire size|gauge|wire gauge|gage|awg|csa|cross section|cross-section|section|area|mm2|mm²|sqmm|"
        r"qmm|mmq|q mm|conductor size|querschnitt|leiterquerschnitt|qs|quers|aderquerschnitt|"
        r"section(?: du fil)?|calibre|sección|sección transversal|sezione|sez|secção|seção|bitola|doorsnede|"
        r"doorsnee|aderdoorsnede|diameter|przekrój|tvärsnitt|kabelarea|průřez"
    ),
    "colour": folded(
        r"colou?r(?: 1)?|wire colou?r|base colou?r|col|clr|main colou?r|insulation colou?r|farbe|aderfarbe|"
        r"grundfarbe|couleur|color|colour code|colou?r code|teinte|colore|cor|kleur|aderkleur|kolor|barwa|"
        r"färg|barva"
    ),
    "stripe": folded(
        r"colou?r 2|stripe|tracer|stripe colou?r|second colou?r|trace|streifen|kennfarbe|zweitfarbe|liseré|"
        r"deuxième couleur|raya|franja|segundo color|riga|striscia|listra|streep|pasek|rand|pruh"
    ),
    "length": folded(
        r"length|wire length|len|cut length|feet|ft|m|cm|metres|meters|inches|mètres|metros|metri|run|"
        r"run length|distance|finished length|länge|laenge|leitungslänge|zuschnitt|lg|longueur|long|longitud|"
        r"largo|lunghezza|lungh|lung|comprimento|comp|lengte|lengde|długość|dł|längd|délka|"
        r"cut to|(?:total|overall|cable|lead) length|(?:kabel|ader|draht|schnitt|zuschnitt|leiter|gesamt)länge|"
        r"longueur (?:de coupe|coupe|totale|du fil)|longitud (?:de corte|total|del cable)|"
        r"lunghezza (?:di taglio|taglio|totale|filo|cavo)|comprimento (?:de corte|total|do fio)|"
        r"(?:kap|snij|draad|kabel)lengte|(?:kap|kabel|total)längd|długość (?:cięcia|przewodu)|délka (?:řezu|vodiče)"
    ),
    "unit": r"units?|einheit|unite|unidad|unita|unidade|eenheid|jednostka|enhet|jednotka|uom",
    "count": folded(
        r"qty|quantity|count|pcs|wires|no of (?:wires|conductors)|conductors|cores|anzahl|menge|stück|stk|"
        r"nombre|nb|quantité|qté|cantidad|cant|quantità|qtà|quantidade|qtd|aantal|ilość|szt|antal|počet|ks"
    ),
    "thing": _THING,
}  # fmt: skip
"""Column meaning → pattern its whole plain title has to match. The first that matches counts."""

LENGTH_WORDS = r"mm|cm|m|ft|in|inch(?:es)?|feet|yd|metres?|meters?|zoll"
FIGURE = r"\d+(?:[.,]\d+)?"
A_LENGTH = rf"{FIGURE}\s*(?:{LENGTH_WORDS})"
SIZE_WORDS = r"mm2|mm²|mm\^2|sqmm|sq mm|mm|awg|gauge|gage|ga|kcmil"

TOTALS = folded(
    r"(?:sub-?\s?|grand\s+)?totals?|sum|summe|zwischensumme|gesamtsumme|gesamt|gesamtlänge|insgesamt|"
    r"sous-total|total général|somme|suma|subtotal|total general|carried forward|übertrag|report|totale|"
    r"subtotale|somma|soma|totaal|subtotaal|razem|ogółem|summa|delsumma|celkem|součet"
)
REMARKS = folded(
    r"(?:n\.?\s?b\.?|notes?|remark|caution|warning|attention|important|hinweis|achtung|anmerkung|bemerkung|"
    r"nota|remarque|aviso|attenzione|let op|opmerking|uwaga|obs|anm|pozn|pozor)\b|[*!†]"
)
DITTO = frozenset(
    folded(mark)
    for mark in (
        '"',
        '""',
        "''",
        "'",
        "´´",
        "``",
        ",,",
        "„",
        "”",
        "“",
        "″",
        "〃",
        "»",
        "«",
        '-"-',
        "-''-",
        '- " -',
        "-//-",
        "//",
        "~",
        "^",
        "↓",
        "↑",
        "|",
        "ditto",
        "dito",
        "ditto.",
        "dito.",
        "do.",
        "do",
        "dto",
        "dto.",
        "d.o.",
        "d:o",
        "s.o.",
        "s. o.",
        "s.o",
        "siehe oben",
        "wie oben",
        "w.o.",
        "w. o.",
        "idem",
        "idem.",
        "id.",
        "íd.",
        "ídem",
        "same",
        "same as above",
        "as above",
        "a/a",
        "come sopra",
        "c.s.",
        "c. s.",
        "igual",
        "igual acima",
        "ver acima",
        "als boven",
        "zie boven",
        "jw.",
        "j.w.",
        "jak wyżej",
        "dtto",
        "detto",
        "viz výše",
        "som ovan",
        "samma",
        "comme ci-dessus",
        "même",
        "gleich",
        "detto.",
        "lo mismo",
    )
)
"""Cells that mean “as above”."""
YES = frozenset(("x", "yes", "y", "ja", "j", "oui", "o", "si", "sim", "tak", "ano", "1", "✓", "✔", "true"))
NO = frozenset(("no", "n", "nein", "non", "nao", "nee", "nie", "nej", "ne", "0", "false"))
"""Cells that tick a column, and that don't, folded."""
