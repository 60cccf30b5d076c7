<?xml version="1.0" encoding="utf-8"?>
<!DOCTYPE TS>
<TS version="2.1" sourcelanguage="en">
<context>
    <name>umber</name>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source> % spare</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source> It is tried again by itself.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/cable.py"/>
        <source>A cable to judge</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/sure_tab.py"/>
        <source>A dot is the use of the worst limit, the band two σ either side: by each length’s ±, 10 % of a load, and joints nobody measured.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/defect_sheet.py"/>
        <source>A fault seen</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>A fault seen…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/widgets/line.py"/>
        <source>A line holds 2 000 letters; the rest was left out. A list is imported with Ctrl+I.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>A made-up unit under test with these faults hidden in it, for trying the desk</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>A repair: the unit is to be proven anew</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>A sheet for each loop: its stairs, cores, tags, spares, and places to mark in red</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>A shelf file for all harnesses…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>A short draws up to</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>A short wire made a size up or in another colour, with who decided it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>A station’s log</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>A table of part (its id in the catalogue) and count</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>A unit somebody else made: who answers for proving it without its steps in the log, and why</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>A “?” is proposed.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>About Umber Trunk</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/place_tab.py"/>
        <source>About this end</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Accept all proposed</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Adds what isn’t here yet; nothing is overwritten</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Air</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/least.py"/>
        <source>All free sizes are chosen together; locked wires stay. Weights say what counts.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/desk.py"/>
        <source>All papers: what each is for, how it looks, all that a build needs in one go (Ctrl+Shift+P)</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/papers.py"/>
        <source>All that this build needs…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Along it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Altitude</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Ambient</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Amps</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Another sample</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/splices_tab.py"/>
        <source>Apart</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Are they used up, or is this a list of some that came in?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>As CSV, XLSX or PDF</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>As a list</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>As it is…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/learning_tab.py"/>
        <source>As it stands again</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>As it was built</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/catalogue.py"/>
        <source>As its sheet has it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>As-built book…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Asks the gauge at this address for what is wanted here</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>At</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>At this step</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>At true scale, in tiles or on a roll</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/splices_tab.py"/>
        <source>At, mm</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/splices_tab.py"/>
        <source>Back to</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/help.py"/>
        <source>Back to the guide</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>Backspace</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/panels.py"/>
        <source>Band</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/splices_tab.py"/>
        <source>Barrel</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Barrier</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/drill_panel.py"/>
        <source>Begin</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Begin a build</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Begins</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Begun by an earlier format: planned once more, and frozen from now on.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Bench</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Board  F7</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Board 1:1  F7</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Board as DXF</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Board as SVG</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Board at 1:1</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/papers.py"/>
        <source>Board on</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/widgets/asked.py"/>
        <source>Both are needed: a name, a colon, and what.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/papers.py"/>
        <source>Both sides</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Breakout here…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Build</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Build book</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Bundle</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>Buy</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>By a named decision: just the steps that differ are done anew</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/mend_sheet.py"/>
        <source>By hand</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/desk.py"/>
        <source>By size</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>CSV, XLSX, XLS or ODS: coil, size, metal, colour, length_m</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Cable</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/import_sheet.py"/>
        <source>Cancel</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Carries</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Case</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Cases</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/catalogue.py"/>
        <source>Catalogue</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Catalogue…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Cavity</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/halves_tab.py"/>
        <source>Cavity by cavity</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Certificate…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/worth_tab.py"/>
        <source>Change</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Changes the wires of two chosen rows</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Check the log</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Choose a core of the bad pair first.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/covers_tab.py"/>
        <source>Choose a covering first.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/trunk/board_view.py"/>
        <source>Choose a limb first: click it, or N for the next.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/widgets/desk.py"/>
        <source>Choose a row first.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/learning_tab.py"/>
        <source>Choose a way of measuring first.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/way_tabs.py"/>
        <source>Choose a wire: its length part by part, with why.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Chooses all sizes together, with a proof of how close to the least</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/wires.py"/>
        <source>Circuit</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Close</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/cable.py"/>
        <source>Close  Esc</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Coil</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Coils</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Colour</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/desk.py"/>
        <source>Conductor mass and its price by metal. Everything else to buy is on the third tab.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>Connect</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Converter (new one: enter  converter 24 to 12 V 90% at house from fuse box)</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Converters</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/kept.py"/>
        <source>Copies kept by day</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Copies kept by day…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Copper</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/worth_tab.py"/>
        <source>Copper against the harness as it is: a metre less, more volts, a circuit split.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Core</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Cores and pairs</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/desk.py"/>
        <source>Cost</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/covers_tab.py"/>
        <source>Coverings</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/desk.py"/>
        <source>Cut</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/desk.py"/>
        <source>Cut list</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Cut sheet</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Decide</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Design</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Deviation…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/repair_tab.py"/>
        <source>Device</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Do</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/mend_sheet.py"/>
        <source>Do it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/repair_tab.py"/>
        <source>Does this lead suit this device?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Down −</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Draws</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/drill_panel.py"/>
        <source>Drill</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Drop</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Duty</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/drill_panel.py"/>
        <source>Each drill counts your readings against the fewest that would do, and says why. The same number gives the same drill.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/splices_tab.py"/>
        <source>Each splice that isn't held lies where the program put it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/mend_sheet.py"/>
        <source>Edits are tried on a copy: what doesn’t mend this, or brings something new, isn’t offered.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Efficiency</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>End</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Ends</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Enter ⏎</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Every coil as a row, or the shelf again</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Every step in words, or the lanes again</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/panels.py"/>
        <source>Every test with its band and what was read, or the picture again</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/panels.py"/>
        <source>Expected</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Fed at</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/catalogue.py"/>
        <source>Field</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Fill from</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Fill from…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/window.py"/>
        <source>Find  Ctrl+F</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Find units</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Find…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/desk.py"/>
        <source>Finished</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Fit open fuses</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Fits, worst first</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>For</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/papers.py"/>
        <source>For other programs</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/papers.py"/>
        <source>For other programs…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/learning_tab.py"/>
        <source>Forgets the bias; ± of segments stay</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Forgets the chosen size and lets the program propose one</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/learning_tab.py"/>
        <source>Found, of planned</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/cores_panel.py"/>
        <source>Found: every core has its number.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Frame</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/kept.py"/>
        <source>Freeze it…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Freezes this revision; everything is logged against it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/desk.py"/>
        <source>From</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>From drawings of what can be wrong</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/welcome.py"/>
        <source>From the list of loads to the wires to cut, with the reason for every size. What do you have?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>From which cavity on?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Fuse</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Fuses and links</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Gauge</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Gets</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/drill_panel.py"/>
        <source>Give up, show me</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Gives the wire the chosen step</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/kept.py"/>
        <source>Go to this one</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/covers_tab.py"/>
        <source>Goes on</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Hand</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/window.py"/>
        <source>Harness</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Has to be</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Heat</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/halves_tab.py"/>
        <source>Here</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>Hidden faults</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>High voltage waits for it; discharge before you touch the harness.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>House practice</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>House rule</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>House rules</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Housing from the catalogue</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/cores_panel.py"/>
        <source>How</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/papers.py"/>
        <source>How it comes out</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/drill_panel.py"/>
        <source>How it is found, reading by reading, and what it was</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/cable.py"/>
        <source>How it was weighed</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>How large is it kept?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/cores_panel.py"/>
        <source>How many cores</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>How to batch</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/catalogue.py"/>
        <source>Import a catalogue</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/widgets/lists.py"/>
        <source>Import a wire list</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Import wire list…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/catalogue.py"/>
        <source>Import…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>In</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/wires.py"/>
        <source>In parallel</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>In words</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/tree_sheet.py"/>
        <source>Infer the tree</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Infer the tree…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Inside</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Is</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/repair_tab.py"/>
        <source>Is for</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Is it what was drawn, and if not, what is wrong?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>It couldn’t be written: see the line below.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>It stands on every paper. Drop, heat and fits follow the wire as it is made.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/learning_tab.py"/>
        <source>Its bias counts in every cut, its ± goes onto every segment measured so</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Its charts begin anew; measure a sample before the batch goes on</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/one_lead.py"/>
        <source>Its conductors lie</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/cable.py"/>
        <source>Its wires of the claimed size are solved again with the coil’s real figures</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/one_lead.py"/>
        <source>Jacket</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Joins (point and length)</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Keep</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/window.py"/>
        <source>Keep as a new harness</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/catalogue.py"/>
        <source>Keep in the shop’s catalogue</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/window.py"/>
        <source>Keep what is here as a new file…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Keeps a picture with this step, inside the harness file, without where it was taken</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Keeps this end's parts whatever is proposed; again to free them</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Keeps this wire's size whatever the optimiser finds; again to free it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Kept here</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Keys</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Kind</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Kit</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Kit, a page a lead</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Labels as CSV</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Labels at size</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Larger text</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/welcome.py"/>
        <source>Lately</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/lay_sheet.py"/>
        <source>Lay onto trunk</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Lay onto trunk…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/trunk/board_view.py"/>
        <source>Laying the board out … Esc stops it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Lead sheets</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Least</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/least.py"/>
        <source>Least copper for the whole harness</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Least copper…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/window.py"/>
        <source>Leave it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Left</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/splices_tab.py"/>
        <source>Legs</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Length</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/way_tabs.py"/>
        <source>Lengths</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Listed</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/wires.py"/>
        <source>Listed length</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Load</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Load gets</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Loads</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Lock ■</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Log</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Logs (*.jsonl)</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/repair_tab.py"/>
        <source>Look at</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/repair_tab.py"/>
        <source>Looked over</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/widgets/worst.py"/>
        <source>Looking at what is open …</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/tree_sheet.py"/>
        <source>Looking for the tree that fits the list …</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/widgets/rail.py"/>
        <source>Looking …</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Looks at the face from the other side</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Loop</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Loop sheets</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Loop sheets…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Loops</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Loops at 22 mA, hot</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/papers.py"/>
        <source>Lying</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Made and measured once more before the batch goes on</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Make</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/cores_panel.py"/>
        <source>Make the plan</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Makes</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/covers_tab.py"/>
        <source>Makes every proposed covering the chosen one</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Makes every proposed part of the harness the chosen one</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Makes every proposed size the chosen one</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Margin</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/desk.py"/>
        <source>Mass</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Mating side  ␣</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Matter</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/learning_tab.py"/>
        <source>Measure so from now on</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/learning_tab.py"/>
        <source>Measured by</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/mend_sheet.py"/>
        <source>Mend</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/widgets/worst.py"/>
        <source>Mend  F5</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Mend what is open…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>Mended</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Mended…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Merge another station’s log…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Metal</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>Meter</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/desk.py"/>
        <source>Metres</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/drill_panel.py"/>
        <source>Millivolts across</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Minus</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Most drop</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>Name</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>Needed</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Needs</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>New harness…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/catalogue.py"/>
        <source>New part</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/widgets/worst.py"/>
        <source>Next  F8</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Next thing open</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>No</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>No coils are on the shelf yet. Read a list of them: coil, size, metal, colour, length_m; metal or colour left blank fit any.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/covers_tab.py"/>
        <source>No covering yet. Say in the line above: sleeve on S4</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/mend_sheet.py"/>
        <source>No edit mends it without bringing something new.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/one_lead.py"/>
        <source>No size of the series does it.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/splices_tab.py"/>
        <source>No splice lies on a segment yet. Say in the line above: splice s1 on S3 at 60 mm</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>No two entries contradict.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Nobody else worked on this build yet: type a name below the builds once.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/kept.py"/>
        <source>None yet. A copy is made at the first edit of a day and when a harness is closed.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Not joined</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Not on the trunk</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>Not right  F3</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Not tested yet: prove it on the Prove desk.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>Notes what was done; the unit is proven anew</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Nothing differs.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Nothing is left to cut of the builds begun; say for how many more units to plan.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/desk.py"/>
        <source>Nothing to cut yet. Enter loads on the Needs desk, or import a wire list with Ctrl+I.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Nothing was built yet. Units stand here once a build is begun on the Make desk.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Nothing was built yet: begin a build on the Make desk; every step and reading is kept from then on.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/welcome.py"/>
        <source>Nothing yet.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Of what it stands all day</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/repair_tab.py"/>
        <source>Old map and new</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>On it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>On reel</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>One at the source for each bare feed, a smaller one where it is too large for its wire</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/one_lead.py"/>
        <source>One lead</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>One size down</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>One size up</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/splices_tab.py"/>
        <source>Open</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Open a build and choose a run first.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Open a harness</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/welcome.py"/>
        <source>Open a harness…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Open…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Or</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Or back inside this harness file</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Order at this end</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/halves_tab.py"/>
        <source>Other end</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Other unit or revision</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/covers_tab.py"/>
        <source>Outside</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>PDF, CSV, JSON (*.pdf *.csv *.json)</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Pair</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Pairs</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Pairs of hands</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/papers.py"/>
        <source>Papers</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/papers.py"/>
        <source>Papers into which folder?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Papers…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Part</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/catalogue.py"/>
        <source>Part as a form</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/way_tabs.py"/>
        <source>Parts of it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>Parts that are there</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>Parts that are there…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Photograph</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Photograph…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Pictures (*.png *.jpg *.jpeg *.webp)</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/desk.py"/>
        <source>Pieces</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Pin map</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Pin maps</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/way_tabs.py"/>
        <source>Pinned to</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Pins</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Place fuses</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Plus</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Point</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Points not joined</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>Price</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Print the board…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/papers.py"/>
        <source>Print this one…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Print…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Propose</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/lay_sheet.py"/>
        <source>Proposed from the listed lengths; correct any breakout or branch. Ends with the same breakout leave together.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Prove</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Puts a breakout into the chosen segment</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Puts the chosen rows' wires into the cavities from a label on</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/catalogue.py"/>
        <source>Ranges as 0.5-1.0, crimps as 0.5:1.15 ± 0.03; …, cavities as 1@-3.5,0/M; … What its sheet leaves out stays empty, and isn’t judged.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Rating</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Ratings for the fuses that have none</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/panels.py"/>
        <source>Read</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Read a stock list…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Read at two metres  F9</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Read it  F2</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>Reads on by the meter's switch box until something is out of its band or eyes are needed</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Receiver</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Recent</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Recent harnesses</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Redline sheet</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Redo</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Release</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Release…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Remakes</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Remove</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/splices_tab.py"/>
        <source>Removes the chosen comb or set</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/covers_tab.py"/>
        <source>Removes the chosen covering</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/kept.py"/>
        <source>Restoring makes a new file; no other is touched.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Rev</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/kept.py"/>
        <source>Revisions of this harness</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Revisions…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Rule</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Rules and words stay; what can be removed are loads, ends, wires and the other parts.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Run</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>Run on  F4</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Runs</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Runs (new one: enter  case at anchor: all but winch)</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>SCPI over a socket or VISA; without one, type readings or let the keyboard wedge type</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>Save the list…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/papers.py"/>
        <source>Save this one…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/repair_tab.py"/>
        <source>Say both; nothing is called fine that isn’t known.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Say the gauge’s address first, and be at a step that is measured.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Say why it is scrapped: the reason stays in the log.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Scrap wire</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Seal or ferrule</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Second station</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/covers_tab.py"/>
        <source>Segment</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Segments</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Serial</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Serial of this unit:</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Serial…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Serves</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Set the stop first: then scan the coil.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>Set-up</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Setting</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/catalogue.py"/>
        <source>Share the shop’s catalogue</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/catalogue.py"/>
        <source>Share…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Shelf file</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>Shopping list</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/way_tabs.py"/>
        <source>Short</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/widgets/worst.py"/>
        <source>Show it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/splices_tab.py"/>
        <source>Shrink</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/splices_tab.py"/>
        <source>Side by side</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>Simulated unit</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/desk.py"/>
        <source>Size</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Sizes</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/worth_tab.py"/>
        <source>Sizes anew</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/worth_tab.py"/>
        <source>Sizes kept</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Sleeve</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Smaller text</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Something else in its place</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Something else in its place…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Source</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>Space accepts, or reads the meter. Type or wedge a reading such as 12.4 mohm or OL; Enter.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Space, foot switch: done. ← →: one piece. Backspace: back. Type or scan a reading, coil, label, serial; Enter.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Space: piece by piece  F3</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Space: the whole handful  F3</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>Spare</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Spare pair</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>Spares</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/splices_tab.py"/>
        <source>Splice</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/splices_tab.py"/>
        <source>Splices</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/widgets/rail.py"/>
        <source>Stages</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Stands</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Start</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Start over</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/catalogue.py"/>
        <source>Starts a form of the kind chosen on the left</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/repair_tab.py"/>
        <source>State</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Step</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Steps</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Steps of the chosen wire</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Stock list</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/trunk/board_view.py"/>
        <source>Stopped. Show the board again to lay it out.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Strike…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/wires.py"/>
        <source>Stripe</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/place_tab.py"/>
        <source>Such as</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Sun</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>Supplier</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Supplies</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Supply</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/repair_tab.py"/>
        <source>Supply lead</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Surge</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Swap two</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Take a spare pair…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>Take back</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/import_sheet.py"/>
        <source>Take every likeliest answer</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Take it  ⏎</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/splices_tab.py"/>
        <source>Take it apart</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/covers_tab.py"/>
        <source>Take it off</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Take nothing</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Take proposals  ⏎</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/covers_tab.py"/>
        <source>Take proposed parts</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/splices_tab.py"/>
        <source>Take these places</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/tree_sheet.py"/>
        <source>Take this trunk</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Take what is before it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Takes</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/panels.py"/>
        <source>Test</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Test list</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Test sheet</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/panels.py"/>
        <source>Test sheet…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Tests</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/drill_panel.py"/>
        <source>That is it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/widgets/telling.py"/>
        <source>That is too long to be one line; a list is imported with Ctrl+I.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>That is too long to be one load; a list is imported with Ctrl+I.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/trunk/board_view.py"/>
        <source>The board at 1:1</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>The board in place of the trunk: what the step touches is lit on it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>The chosen entry was found wrong: it is kept, shown as struck, and counts no more</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>The chosen wire's pair is bad; its circuit takes a spare pair of the same cable, by a named decision</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>The die was set anew</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/drill_panel.py"/>
        <source>The drill</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/trunk/board_view.py"/>
        <source>The figures are being worked out …</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/window.py"/>
        <source>The file stays as that program left it. What you see here isn’t in it.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/mend_sheet.py"/>
        <source>The harness has changed since these were tried; open this once more.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>The limbs chosen, with points nothing meets at then</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/panels.py"/>
        <source>The list on paper, with a place for each reading</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/cores_panel.py"/>
        <source>The plan</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>The rows chosen, with what can’t be without them: a load takes its own wires along, an end all that is at it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>The shelf as it is now, as CSV or XLSX</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>The step alone, over the whole screen; Esc comes back</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/tree_sheet.py"/>
        <source>The tree whose ways fit all listed lengths best, and how far other trees that fit as well differ from it.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/trunk/board_view.py"/>
        <source>The trunk stays level; drag what hangs on it.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>The trunk that all listed lengths together speak of</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>The unit's record</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>The unit's record as text, or its picture again</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>The whole harness at true scale in place of the trunk</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>The wire is cut and made anew</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Then left</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/halves_tab.py"/>
        <source>There</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>There is no other unit.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>They are gone</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>They stay</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>This end: undoes exactly its steps and counts the wire down</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>This file is open elsewhere. A name for this station: its log is kept beside the file, to be merged.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/desk.py"/>
        <source>To</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>To buy</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/welcome.py"/>
        <source>To look at and try things on: made-up harnesses</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>To the trunk picture</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Tool</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/desk.py"/>
        <source>Totals</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Traits: wet, shaking, oily, sunny, flexing, hot, enclosed</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Traveller</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Trunk painted by margin</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Trunk painted by temperature</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Two stations say different things of one step, reading, test or serial: choose by name</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/cores_panel.py"/>
        <source>Two walks do for any number but two. Enter pairs such as 1-4 2-3, cores that lead, or readings such as 3=220.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/repair_tab.py"/>
        <source>Type ok or replace; in the map what each cavity of the old one was for: colours don’t agree.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/place_tab.py"/>
        <source>Type over a value; empty forgets it. Parts go by their name or id in the catalogue (Ctrl+K).</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/cable.py"/>
        <source>Type the claim and at least one reading first.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Type where each joins, and how far: bow locker 1.2 m</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Undo</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Unit</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>Unit to prove</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Units</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Up +</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Upgrade</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Upgrade…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>User guide</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Usual text size</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Value</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Volts</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/repair_tab.py"/>
        <source>Was for</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/learning_tab.py"/>
        <source>Ways of measuring</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Weak where</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Weakest part</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/place_tab.py"/>
        <source>What</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>What Space attests at this operation, in this shop</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/worth_tab.py"/>
        <source>What changes are worth</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/defect_sheet.py"/>
        <source>What do you see?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>What has to be fed, from where, in what air?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>What is cut from it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>What is otherwise than planned, and who decided it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>What it does</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>What it is</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>What lies on the shelf is taken off. Crimps pulled apart at each tool’s set-up are counted in. Parts without a supplier in the catalogue stand last.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/mend_sheet.py"/>
        <source>What mends it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>What of the unit</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>What stands before the first bad line can be taken; the rest is held back.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>What the trunk shows</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>What to cut and buy?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>What to do next, and how did it measure?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>What was built, of what, by whom, and what is left of it?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>What was done?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/cores_panel.py"/>
        <source>What was found</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>What was it? The judge learns from it how often each is met here.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>What was looked at, tugged or shaken isn't right</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/cable.py"/>
        <source>What would this harness do built with it?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>When</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Where</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Whether every entry is as it was written</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Which conductor, so that every limit holds?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/drill_panel.py"/>
        <source>Which drill</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Which part on which wire, and does it fit?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Which stands</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Which stands…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Which way, how long, under what cover?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Who chooses, and why (name: why)?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Who decided, and what (name: what)?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/loops_panel.py"/>
        <source>Who decides it, and why (name: reason)?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Who decides it?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Who goes without, and why (name: why)?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Who lets this go on without a good reading?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Who makes this harness without one being read, and why</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>Who mended, and what (name: what)?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>Who strikes the chosen entry, and why (name: why)?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>Who takes it as it is, and why (name: why)? Both stand first on its papers.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>Who tests</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Who worked here before works now; a name is typed below once</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Who works</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/papers.py"/>
        <source>Whole pages</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Why is it given up?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Why is this so?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/one_lead.py"/>
        <source>Why this figure</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Wire</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/repair_tab.py"/>
        <source>Wire left</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Wire list</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>Wire side  ␣</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Wire words</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Wires</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Wires not laid</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>Wires of a list have no tree. Choose several (Shift + ↓), then lay them: breakouts and branches are proposed from their lengths.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Wires, worst first</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>Without a reading, or in spite of it; with a name that stays in the log</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Without a shelf…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Word</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="core/stages.py"/>
        <source>Workbook</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/commands.py"/>
        <source>Workbook…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/papers.py"/>
        <source>Working it out; it is written as soon as that is done.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/window.py"/>
        <source>Working it out; the file is written as soon as that is done.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/papers.py"/>
        <source>Working it out…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Working out the cuts…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>Worst limit</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>Write it…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/papers.py"/>
        <source>Writes every paper that is ticked, as PDF into one folder</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/drill_panel.py"/>
        <source>Your turn</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Zone</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/needs/desk.py"/>
        <source>Zones</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/cores_panel.py"/>
        <source>a conductor is known at both ends</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>a sample first, then the batch goes on</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>a size up, such as 4 mm2; blank keeps it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>a trial, nothing is kept</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>another colour, such as red/white; blank keeps it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/one_lead.py"/>
        <source>apart, each in free air</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>both stand</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>coil C12, hand Mara, serial …, tool …, fault …, proven</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>coils in </source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/cores_panel.py"/>
        <source>cores: </source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/repair_tab.py"/>
        <source>device: 12 V 1.5 A centre +</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>electronics are disconnected</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/catalogue.py"/>
        <source>every kind</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>faults, e.g. open:W08</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>for more units: </source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>for what is left to cut</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>hands: </source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/repair_tab.py"/>
        <source>lead: 12 V 2 A centre +</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/widgets/worst.py"/>
        <source>may help: </source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/tree_sheet.py"/>
        <source>measure it</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>mm²</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>n</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>next  F4</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>none of these, or not known</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>nothing is being built yet</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/drill_panel.py"/>
        <source>number </source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/help.py"/>
        <source>search the guide, Enter for the next place</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>taken back</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/halves_tab.py"/>
        <source>the half it plugs into, derived</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/one_lead.py"/>
        <source>there and back together</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>this harness file</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/buy_tab.py"/>
        <source>units: </source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/trunk/board_view.py"/>
        <source>ways tried</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/prove/desk.py"/>
        <source>who tests</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>who works</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/desk.py"/>
        <source>why is it given up?</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/repair_tab.py"/>
        <source>wire left to cut back: 120 mm</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/sheets/catalogue.py"/>
        <source>words of its name, id, kind or family</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/keep/desk.py"/>
        <source>working it out …</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/kit/shelf_tabs.py"/>
        <source>{gone} coils are on the shelf that the list doesn’t have; it has {many}.</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/sizes/desk.py"/>
        <source>°C</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/desk.py"/>
        <source>±</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/learning_tab.py"/>
        <source>± from now on</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/runs/way_tabs.py"/>
        <source>σ</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/make/bench_tabs.py"/>
        <source>…</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/desks/ends/desk.py"/>
        <source>■</source>
        <translation type="unfinished"></translation>
    </message>
    <message>
        <location filename="app/widgets/telling.py"/>
        <source>✓ Enter puts it in</source>
        <translation type="unfinished"></translation>
    </message>
</context>
</TS>
