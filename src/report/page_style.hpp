/// What the page looks like, and what it does when somebody types.
#pragma once

#include <string_view>

namespace fibula {

constexpr std::string_view page_style = R"css(
:root { color-scheme: light dark; --ink: #1d2430; --paper: #fbfaf7; --faint: #5a6372; --line: #d9d5cb; --good: #1c6b3f; --warn: #8a5200;
  --bad: #a3222a; --band: #f1eee6; --link: #1b4f94; --bar: #4f7cac; }
@media (prefers-color-scheme: dark) { :root { --ink: #e4e6ea; --paper: #16191f; --faint: #a4acb9; --line: #343a45; --good: #79c99a;
  --warn: #e6b566; --bad: #f08a8a; --band: #1f242c; --link: #8db8f0; --bar: #6f9ccb; } }
* { box-sizing: border-box; }
body { margin: 0 auto; max-width: 76rem; padding: 1rem 1.5rem 4rem; background: var(--paper); color: var(--ink);
  font: 16px/1.5 system-ui, "DejaVu Sans", sans-serif; }
a { color: var(--link); }
a:focus-visible, button:focus-visible, input:focus-visible, summary:focus-visible, [tabindex]:focus-visible { outline: 3px solid var(--link); outline-offset: 2px; }
.skip { position: absolute; left: -100rem; } .skip:focus { left: 1rem; top: 1rem; background: var(--paper); padding: .5rem; }
h1 { font-size: 1.6rem; margin: .5rem 0 0; } h2 { font-size: 1.2rem; margin: 2.5rem 0 .5rem; border-bottom: 1px solid var(--line); padding-bottom: .25rem; }
h3 { font-size: 1rem; margin: 1.25rem 0 .25rem; }
.faint { color: var(--faint); } .good { color: var(--good); } .caution, .unknown { color: var(--warn); } .misfit { color: var(--bad); }
nav ul { list-style: none; padding: 0; display: flex; flex-wrap: wrap; gap: .25rem 1rem; margin: .5rem 0 0; }
.scroll { overflow-x: auto; }
table { border-collapse: collapse; width: 100%; font-size: .925rem; } caption { text-align: left; color: var(--faint); padding: .25rem 0; }
th, td { text-align: left; vertical-align: top; padding: .35rem .75rem .35rem 0; border-bottom: 1px solid var(--line); }
thead th { border-bottom: 2px solid var(--line); }
code, .path { font-family: ui-monospace, "DejaVu Sans Mono", monospace; font-size: .875em; overflow-wrap: anywhere; }
.tools { display: flex; flex-wrap: wrap; gap: .5rem 1rem; align-items: center; margin: .75rem 0; }
input[type=search], select { font: inherit; padding: .35rem .5rem; border: 1px solid var(--faint); border-radius: 4px; background: var(--paper); color: var(--ink); }
button { font: inherit; padding: .25rem .75rem; border: 1px solid var(--faint); border-radius: 4px; background: var(--band); color: var(--ink); cursor: pointer; }
.said { border-left: 4px solid var(--line); padding: .1rem 0 .1rem .9rem; margin: .9rem 0; } .said.misfit { border-color: var(--bad); color: inherit; }
.said.caution { border-color: var(--warn); color: inherit; } .said p { margin: .15rem 0; }
details { margin: .5rem 0; } summary { cursor: pointer; font-weight: 600; }
.bars { display: grid; grid-template-columns: max-content 1fr max-content; gap: .25rem .75rem; align-items: center; margin: .5rem 0 1rem; }
.bars .bar { background: var(--bar); height: .9rem; border-radius: 2px; min-width: 2px; }
.drawing { border: 1px solid var(--line); overflow: auto; max-height: 75vh; } .drawing svg { display: block; width: 100%; height: auto; margin: 0 auto; }
.drawing text { fill: var(--ink); } .drawing path, .drawing polygon, .drawing polyline { stroke: var(--faint); fill: none; }
.drawing .edge polygon { fill: var(--faint); } .drawing .output path { stroke: var(--link); stroke-width: 2; } .drawing .system path { stroke-dasharray: 4 3; }
.drawing .graph > polygon { stroke: none; }
.hidden { position: absolute; clip-path: inset(50%); width: 1px; height: 1px; overflow: hidden; white-space: nowrap; }
@media print { .tools, nav, .skip { display: none; } body { max-width: none; padding: 0; font-size: 11pt; background: #fff; color: #000; }
  .drawing { max-height: none; overflow: visible; } tr, .said { break-inside: avoid; } }
)css";

constexpr std::string_view page_script = R"js(
(() => {
  const words = document.getElementById('words'), verdict = document.getElementById('verdict'), count = document.getElementById('count');
  const rows = [...document.querySelectorAll('#libraries tbody tr')];
  const filter = () => {
    const asked = words.value.trim().toLowerCase().split(/\s+/).filter(Boolean), wanted = verdict.value;
    let shown = 0;
    for (const row of rows) {
      const text = row.textContent.toLowerCase();
      const fits = asked.every(word => text.includes(word)) && (!wanted || row.dataset.verdicts.split(' ').includes(wanted));
      row.hidden = !fits;
      shown += fits ? 1 : 0;
    }
    count.textContent = `${shown} of ${rows.length}`;
  };
  if (words) { words.addEventListener('input', filter); verdict.addEventListener('change', filter); filter(); }
  const drawing = document.querySelector('.drawing svg');
  let size = 100;
  const zoom = by => { size = Math.min(800, Math.max(50, size * by)); drawing.style.maxWidth = 'none'; drawing.style.width = size + '%'; };
  document.getElementById('larger')?.addEventListener('click', () => zoom(1.25));
  document.getElementById('smaller')?.addEventListener('click', () => zoom(0.8));
  addEventListener('beforeprint', () => document.querySelectorAll('details').forEach(d => { d.dataset.was = d.open; d.open = true; }));
  addEventListener('afterprint', () => document.querySelectorAll('details').forEach(d => { d.open = d.dataset.was === 'true'; }));
})();
)js";

}  // namespace fibula
