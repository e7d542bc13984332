"use strict";
(() => {
  const tip = document.getElementById("tip");
  const show = (mark, x, y) => {
    const title = mark && mark.querySelector(":scope > title");
    if (!title) { tip.hidden = true; return; }
    tip.textContent = title.textContent;
    tip.hidden = false;
    const room = tip.getBoundingClientRect();
    tip.style.left = Math.max(4, Math.min(x + 14, innerWidth - room.width - 4)) + "px";
    tip.style.top = (y + 18 + room.height > innerHeight ? y - room.height - 10 : y + 18) + "px";
  };
  const over = (event) => show(event.target.closest && event.target.closest("svg [data-value]"), event.clientX, event.clientY);
  addEventListener("pointermove", over, { passive: true });
  addEventListener("pointerdown", over, { passive: true });
  addEventListener("scroll", () => { tip.hidden = true; }, { passive: true });
  const reach = () => document.querySelectorAll(".panel").forEach((each) => {
    if (each.scrollWidth > each.clientWidth + 1) each.tabIndex = 0; else each.removeAttribute("tabindex");
  });
  addEventListener("resize", reach);
  addEventListener("load", reach);
  addEventListener("keydown", (event) => { if (event.key === "Escape") tip.hidden = true; });

  const form = document.getElementById("slicers");
  if (!form) return;
  const said = document.getElementById("said");
  const about = JSON.parse(document.getElementById("about").textContent);
  let states = null;
  const chosen = about.slicers.map(() => 0);
  const order = [];

  const unpacked = async () => {
    const packed = Uint8Array.from(atob(document.getElementById("states").textContent.trim()), (each) => each.charCodeAt(0));
    const stream = new Blob([packed]).stream().pipeThrough(new DecompressionStream("gzip"));
    return JSON.parse(await new Response(stream).text());
  };
  const cells = (rows, labels, heads) => {
    const table = document.createElement("table");
    const parts = [table.createTHead(), table.createTBody()];
    rows.forEach((row, at) => {
      const line = parts[at < heads ? 0 : 1].insertRow();
      row.forEach((text, place) => {
        const named = at < heads || place < labels;
        const cell = document.createElement(named ? "th" : "td");
        if (named) cell.scope = at < heads ? "col" : "row";
        if (place >= labels) cell.className = "n";
        cell.textContent = text;
        line.append(cell);
      });
    });
    return table;
  };
  const draw = () => {
    const state = states.states[chosen.join(",")];
    if (!state) return;
    state.forEach((which, panel) => {
      const drawn = document.querySelector("#p" + panel + " .drawn");
      if (Number(drawn.dataset.which ?? -1) !== which) {
        drawn.innerHTML = states.drawn[which];
        drawn.dataset.which = which;
      }
      const table = document.querySelector("#t" + panel + " .scroll");
      const figures = states.figures[which];
      if (table && figures) table.replaceChildren(cells(figures.rows, figures.labels, figures.heads));
    });
    const words = chosen.map((member, at) => member ? about.slicers[at].name + " is " + about.slicers[at].members[member - 1] : "");
    const foot = document.querySelector("footer p");
    if (foot) foot.textContent = states.feet[chosen.join(",")];
    said.textContent = words.filter(Boolean).join(" · ") || about.all;
    chosen.forEach((member, at) => {
      const field = form.elements["s" + at];
      field.value = String(member);
    });
    const parts = chosen.map((member, at) => member ? encodeURIComponent(about.slicers[at].name) + "=" + encodeURIComponent(about.slicers[at].members[member - 1]) : "");
    const hash = parts.filter(Boolean).join("&");
    if (location.hash.slice(1) !== hash) history.replaceState(null, "", hash ? "#" + hash : "#");
    document.body.dataset.state = chosen.join(",");
  };
  const choose = (at, member) => {
    chosen[at] = member;
    const place = order.indexOf(at);
    if (place >= 0) order.splice(place, 1);
    if (member) order.push(at);
    while (order.length > about.together) chosen[order.shift()] = 0;
    draw();
  };
  form.addEventListener("change", (event) => choose(Number(event.target.name.slice(1)), Number(event.target.value)));
  form.addEventListener("submit", (event) => event.preventDefault());
  const read = (text) => { try { return decodeURIComponent(text); } catch { return ""; } };
  const fromHash = () => {
    chosen.fill(0);
    order.length = 0;
    for (const part of location.hash.slice(1).split("&")) {
      const [name, member] = part.split("=").map(read);
      const at = about.slicers.findIndex((each) => each.name === name);
      if (at >= 0) choose(at, about.slicers[at].members.indexOf(member) + 1);
    }
  };
  addEventListener("hashchange", () => { fromHash(); draw(); });
  unpacked().then((found) => { states = found; form.hidden = false; fromHash(); draw(); }, () => {
    said.textContent = "This browser cannot unpack the slices of this page; it shows everything.";
  });
})();
