"use strict";
// What was made on the laptop, and what is filled in here. Nothing leaves the telephone but the file that somebody saves.
const sheet = JSON.parse(document.getElementById("sheet").textContent);
// What many devices share stands in it once, and devices name it by its place.
for (const device of sheet.devices) {
  const plans = device.plans.map((at) => sheet.plans[at]);
  device.tests = sheet.test_sets[device.tests].map((id, at) => ({ id, planned: plans[at][0], low: plans[at][1], high: plans[at][2], ...sheet.tests[id] }));
  device.steps = sheet.step_sets[device.steps].map((id) => ({ key: `${device.id}/${id}`, ...sheet.steps[id], ...(device.own && device.own[id] ? { text: device.own[id] } : {}) }));
}
const PHOTO_SIDE_PX = 1600, PHOTO_QUALITY = 0.8;
const store = "eager-lens-field-sheet-" + sheet.id;
let filled = { by: "", ticks: {}, checks: [], snags: {}, photos: {} };
let unsaved = false, open = null, show = "tests", search = "";

const view = document.getElementById("view"), state = document.getElementById("state");
const back = document.getElementById("back"), title = document.getElementById("title"), save = document.getElementById("save");

function make(name, attributes, ...children) {
  const made = document.createElement(name);
  for (const [key, value] of Object.entries(attributes || {})) {
    if (key.startsWith("on")) made.addEventListener(key.slice(2), value);
    else if (value === true) made.setAttribute(key, "");
    else if (value !== false && value !== null && value !== undefined) made.setAttribute(key, value);
  }
  made.append(...children.filter((child) => child !== null && child !== ""));
  return made;
}

function now() {
  const at = new Date(), two = (number) => String(number).padStart(2, "0");
  return `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}T${two(at.getHours())}:${two(at.getMinutes())}:${two(at.getSeconds())}`;
}

function someId(prefix) {
  const bytes = crypto.getRandomValues(new Uint8Array(8));
  return prefix + Array.from(bytes, (byte) => byte.toString(16).padStart(2, "0")).join("");
}

function tell(words) { state.textContent = words; }

// ---- keeping ----------------------------------------------------------------------------------------------------------

function keep() {
  unsaved = true;
  try { localStorage.setItem(store, JSON.stringify(filled)); tell("Kept on this telephone; not saved to a file yet."); }
  catch (error) { tell("Not saved yet. This browser keeps nothing by itself: save often."); }
}

function restore() {
  try { const kept = localStorage.getItem(store); if (kept) { filled = JSON.parse(kept); unsaved = true; tell("Went on from what was kept on this telephone."); } }
  catch (error) { /* a browser that keeps nothing: then there is nothing to go on from */ }
}

function document_() {
  return { format: "eager-lens-field-sheet", version: 1, sheet: sheet.id, job: sheet.job, made_at: sheet.made_at, saved_at: now(),
    by: filled.by, base: sheet.base, ticks: Object.values(filled.ticks), checks: filled.checks, snags: Object.values(filled.snags), photos: filled.photos };
}

function fileName() {
  const plain = (text) => text.replace(/[^\p{L}\p{N} _-]/gu, "").trim().slice(0, 60);
  return `${plain(sheet.job) || "job"} ${plain(filled.by) || "field sheet"} ${now().slice(0, 10)}.field.json`;
}

function saveFile() {
  if (!named()) return;
  const blob = new Blob([JSON.stringify(document_())], { type: "application/json" });
  const link = make("a", { href: URL.createObjectURL(blob), download: fileName() });
  document.body.append(link);
  link.click();
  link.remove();
  unsaved = false;
  tell(`Saved as ${link.download}. Send it to the laptop; going on here is fine.`);
}

async function sendFile() {
  if (!named()) return;
  const file = new File([JSON.stringify(document_())], fileName(), { type: "application/json" });
  try { await navigator.share({ files: [file], title: sheet.job }); unsaved = false; }
  catch (error) { tell("It was not sent. Save it to a file instead."); }
}

async function loadFile(input) {
  const file = input.files[0];
  if (!file) return;
  try {
    const found = JSON.parse(await file.text());
    if (found.format !== "eager-lens-field-sheet" || found.version !== 1) throw new Error("it is no field sheet");
    if (found.sheet !== sheet.id) throw new Error("it belongs to another sheet");
    for (const tick of found.ticks) filled.ticks[tick.step] ??= tick;
    const known = new Set(filled.checks.map((check) => check.id));
    filled.checks.push(...found.checks.filter((check) => !known.has(check.id)));
    filled.checks.sort((one, other) => (one.at < other.at ? -1 : one.at > other.at ? 1 : 0));
    for (const snag of found.snags) filled.snags[snag.id] ??= snag;
    filled.photos = { ...found.photos, ...filled.photos };
    filled.by = filled.by || found.by;
    keep();
    tell(`${file.name} was taken in.`);
  } catch (error) { tell(`${file.name} was not taken in: ${error.message}. Nothing was changed.`); }
  draw();
}

function named() {
  if (filled.by.trim()) return true;
  open = null;
  draw();
  tell("Your name first: it stands with everything that you fill in.");
  const field = document.getElementById("by");
  if (field) field.focus();
  return false;
}

// ---- photos -----------------------------------------------------------------------------------------------------------

async function reduced(file) {
  const url = URL.createObjectURL(file);
  try {
    const image = new Image();
    await new Promise((done, failed) => { image.onload = done; image.onerror = () => failed(new Error("it is no picture")); image.src = url; });
    const share = Math.min(1, PHOTO_SIDE_PX / Math.max(image.naturalWidth, image.naturalHeight));
    const canvas = make("canvas", { width: Math.round(image.naturalWidth * share), height: Math.round(image.naturalHeight * share) });
    canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
    return canvas.toDataURL("image/jpeg", PHOTO_QUALITY);
  } finally { URL.revokeObjectURL(url); }
}

function photoButton(take) {
  const input = make("input", { type: "file", accept: "image/*", "aria-label": "Add a photo", onchange: async () => {
    const file = input.files[0];
    if (!file) return;
    try {
      const id = someId("p-");
      filled.photos[id] = await reduced(file);
      take(id);
      keep();
      draw();
    } catch (error) { tell(`The photo was not taken in: ${error.message}.`); }
  } });
  return make("label", { class: "file" }, "Photo", input);
}

function photoStrip(ids) {
  return ids && ids.length ? make("div", { class: "photos" }, ...ids.map((id) => make("img", { src: filled.photos[id] || "", alt: "photo" }))) : null;
}

// ---- results ----------------------------------------------------------------------------------------------------------

function made(device, test) {
  const here = filled.checks.filter((check) => check.device === device.id && check.check === test.id);
  return here.length ? here[here.length - 1] : (sheet.base.checks[`${device.id}/${test.id}`] || null);
}

function ticked(key) { return filled.ticks[key] || sheet.base.ticks[key] || null; }

function snagsOf(device) {
  const known = Object.values(sheet.base.snags).filter((snag) => !filled.snags[snag.id]);
  return [...known, ...Object.values(filled.snags)].filter((snag) => !device || snag.device === device.id);
}

function record(device, test, outcome, measured, value) {
  if (!named()) return;
  filled.checks.push({ id: someId("c-"), device: device.id, check: test.id, outcome, measured, value, by: filled.by.trim(), at: now(), photos: [] });
  keep();
  draw();
}

function number(text) {
  const bare = text.trim().replace(",", ".").replace("−", "-");
  return /^[+-]?\d{1,9}(\.\d{1,6})?$/.test(bare) ? Number(bare) : null;
}

function holds(test, measured) {
  const near = (bound) => Math.abs(measured - bound) <= 1e-9 * Math.abs(bound);
  return (test.low === null || measured >= test.low || near(test.low)) && (test.high === null || measured <= test.high || near(test.high));
}

// ---- drawing ----------------------------------------------------------------------------------------------------------

function draw() {
  const top = window.scrollY;
  view.replaceChildren(...(open ? devicePage(open) : listPage()));
  title.textContent = open ? open.name : sheet.job;
  back.hidden = !open;
  window.scrollTo(0, top);
}

function far(device) {
  const tests = device.tests.map((test) => made(device, test)).filter(Boolean);
  const failed = tests.filter((check) => check.outcome === "failed").length;
  const steps = device.steps.filter((step) => ticked(step.key)).length;
  const parts = [`${tests.length - failed} of ${device.tests.length} tests`];
  if (device.steps.length) parts.push(`${steps} of ${device.steps.length} steps`);
  if (failed) parts.push(`${failed} failed`);
  return parts.join("\n");
}

function listPage() {
  const by = make("input", { id: "by", value: filled.by, autocomplete: "name", maxlength: 200, onchange: (event) => { filled.by = event.target.value; keep(); } });
  const find = make("input", { type: "search", value: search, placeholder: "Find a device or place", "aria-label": "Find a device or place",
    oninput: (event) => { search = event.target.value; list.replaceChildren(...rows()); } });
  const rows = () => {
    const words = search.toLowerCase().split(/\s+/).filter(Boolean);
    const fitting = sheet.devices.filter((device) => words.every((word) => `${device.name} ${device.place} ${device.address}`.toLowerCase().includes(word)));
    return fitting.map((device) => make("button", { class: "device", "data-device": device.id, onclick: () => { open = device; show = device.steps.length ? show : "tests"; window.scrollTo(0, 0); draw(); window.scrollTo(0, 0); } },
      make("span", { class: "name" }, device.name, make("span", { class: "place" }, [device.place, device.address].filter(Boolean).join(" · "))),
      make("span", { class: "far", style: "white-space: pre-line" }, far(device))));
  };
  const list = make("div", {}, ...rows());
  const loading = make("input", { type: "file", accept: ".json,application/json", "aria-label": "Take a saved sheet in", onchange: () => loadFile(loading) });
  const more = make("div", { class: "row" }, make("label", { class: "file" }, "Take a saved sheet in", loading));
  if (navigator.canShare && navigator.canShare({ files: [new File(["{}"], "x.json", { type: "application/json" })] }))
    more.append(make("button", { onclick: sendFile }, "Send"));
  return [make("label", {}, make("span", {}, "Your name"), by), find, list, more,
    make("p", { class: "how" }, `Made ${sheet.made_at.replace("T", " ")}. Works without a network. What you fill in is kept on this telephone until you save it; the laptop takes the saved file in.`)];
}

function devicePage(device) {
  const tabs = [["steps", `Mounting`, device.steps.length], ["tests", "Tests", device.tests.length], ["snags", `Snags`, 1]].filter((tab) => tab[2]);
  if (!tabs.some((tab) => tab[0] === show)) show = tabs[0][0];
  const row = make("div", { class: "row", role: "group", "aria-label": "What is shown" }, ...tabs.map(([id, words]) =>
    make("button", { "aria-pressed": String(show === id), "data-show": id, onclick: () => { show = id; window.scrollTo(0, 0); draw(); } }, words)));
  const facts = make("p", { class: "how" }, device.facts);
  const parts = show === "steps" ? stepItems(device) : show === "tests" ? device.tests.map((test) => testItem(device, test)) : snagItems(device);
  return [facts, row, ...parts];
}

function stepItems(device) {
  const items = [];
  let stage = "";
  for (const step of device.steps) {
    if (step.stage !== stage) items.push(make("h2", {}, stage = step.stage));
    const tick = ticked(step.key);
    const set = (outcome) => {
      if (!named()) return;
      if (filled.ticks[step.key] && filled.ticks[step.key].outcome === outcome) delete filled.ticks[step.key];
      else filled.ticks[step.key] = { step: step.key, outcome, by: filled.by.trim(), at: now() };
      keep();
      draw();
    };
    const done = tick && tick.outcome === "done";
    const left = tick && !done;
    items.push(make("div", { class: "item", "data-step": step.key },
      step.caution ? make("p", { class: "caution" }, step.caution) : null,
      make("div", { class: "row" },
        make("button", { class: "tick", "aria-pressed": String(Boolean(done)), onclick: () => set("done") }, make("span", { class: "box", "aria-hidden": "true" }, done ? "✓" : ""), make("span", {}, step.text)),
        make("button", { class: "quiet skip", "aria-pressed": String(Boolean(left)), onclick: () => set("skipped") }, "Left out")),
      tick ? make("p", { class: "made" }, `${done ? "done" : "left out"} ${tick.by} ${tick.at.slice(0, 10)}`) : null));
  }
  return items;
}

function testItem(device, test) {
  const check = made(device, test);
  const unit = test.unit ? ` ${test.unit}` : "";
  const note = make("input", { placeholder: test.value, "aria-label": `${test.label}: what was seen`, maxlength: 200 });
  const parts = [make("strong", {}, test.label)];
  if (test.planned) parts.push(make("p", { class: "plan" }, `Planned: ${test.planned}${test.unit && !test.planned.endsWith(test.unit) ? ` (${test.unit})` : ""}`));
  parts.push(make("p", { class: "how" }, test.how));
  if (test.caution) parts.push(make("p", { class: "caution" }, test.caution));
  if (check) {
    const seen = [check.measured === null || check.measured === undefined ? "" : `${check.measured}${unit}`, check.value, check.by, check.at.replace("T", " ").slice(0, 16)].filter(Boolean).join(" · ");
    parts.push(make("p", { class: check.outcome === "failed" ? "made wrong" : "made" }, `${check.outcome === "failed" ? "✗ failed" : "✓ passed"}: ${seen}`), photoStrip(check.photos));
  }
  const press = (outcome) => make("button", { class: outcome, "aria-pressed": String(Boolean(check && check.outcome === outcome)), onclick: () => record(device, test, outcome, null, note.value.trim()) }, outcome === "passed" ? "Passed" : "Failed");
  const buttons = make("div", { class: "row" });
  if (test.unit) {
    const measured = make("input", { inputmode: "decimal", placeholder: `value, ${test.unit}`, "aria-label": `${test.label}, ${test.unit}` });
    const enter = make("button", { class: "enter", onclick: () => {
      const value = number(measured.value);
      if (value === null) { tell(`${test.label}: type a number of ${test.unit}.`); measured.focus(); return; }
      record(device, test, holds(test, value) ? "passed" : "failed", value, note.value.trim());
    } }, "Enter");
    parts.push(make("div", { class: "row" }, make("div", { style: "flex: 1 1 40%" }, measured), enter));
    buttons.append(press("failed"));
  } else buttons.append(press("passed"), press("failed"));
  if (check && filled.checks.includes(check)) buttons.append(photoButton((id) => check.photos.push(id)));
  parts.push(note, buttons);
  return make("div", { class: "item", "data-test": test.id }, ...parts);
}

function snagItems(device) {
  const items = snagsOf(device).map((snag) => {
    const change = (field, value) => {
      if (!named()) return;
      filled.snags[snag.id] = { ...snag, ...filled.snags[snag.id], [field]: value };
      if (field === "state") Object.assign(filled.snags[snag.id], value === "open" ? { closed_by: "", closed_at: "" } : { closed_by: filled.by.trim(), closed_at: now() });
      keep();
      draw();
    };
    const right = snag.state !== "open";
    return make("div", { class: "item", "data-snag": snag.id }, make("strong", {}, snag.text),
      make("p", { class: right ? "made" : "made wrong" }, [snag.state, snag.owner, snag.due, snag.opened_by].filter(Boolean).join(" · ")),
      make("label", {}, make("span", {}, "What was done"), make("input", { value: snag.outcome || "", maxlength: 2000, onchange: (event) => change("outcome", event.target.value.trim()) })),
      photoStrip(snag.photos),
      make("div", { class: "row" }, snag.check && !right ? make("span", { class: "how" }, "It closes when its test passes.") : make("button", { "aria-pressed": String(right), onclick: () => change("state", right ? "open" : "put right") }, right ? snag.state : "Put right"),
        filled.snags[snag.id] ? photoButton((id) => { filled.snags[snag.id].photos = [...(filled.snags[snag.id].photos || []), id]; }) : null));
  });
  const text = make("textarea", { maxlength: 2000, id: "snag-text" }), owner = make("input", { maxlength: 200, id: "snag-owner" }), due = make("input", { type: "date", id: "snag-due" });
  items.push(make("div", { class: "item" }, make("label", {}, make("span", {}, "What is wrong"), text), make("label", {}, make("span", {}, "Who puts it right"), owner),
    make("label", {}, make("span", {}, "By when"), due),
    make("div", { class: "row" }, make("button", { id: "snag-add", onclick: () => {
      if (!named()) return;
      if (!text.value.trim()) { tell("Say what is wrong first."); text.focus(); return; }
      const id = someId("snag-f");
      filled.snags[id] = { id, device: device.id, check: "", text: text.value.trim(), owner: owner.value.trim(), due: due.value || null, state: "open",
        opened_by: filled.by.trim(), opened_at: now(), closed_by: "", closed_at: "", outcome: "", photos: [] };
      keep();
      draw();
    } }, "Add a snag"))));
  return items;
}

back.addEventListener("click", () => { open = null; draw(); window.scrollTo(0, 0); });
save.addEventListener("click", saveFile);
window.addEventListener("beforeunload", (event) => { if (unsaved) event.preventDefault(); });
restore();
draw();
