// Shows beside the field what is wrong with an address while it is typed, and keeps the form from being sent with it.
// AddressEntry.fault(value) gives the finding and its sentence, or null.
(() => {
  // Each: the finding, its message, and the condition.
  const conditions = /*CONDITIONS*/;

  const names = (text) => new Set(text.split(" "));
  for (const condition of conditions) {
    for (const part of ["is", "not", "where"]) {
      if (part in condition) condition[part] = new RegExp(condition[part]);
    }
    for (const part of ["below", "at", "under", "but", "named"]) {
      if (part in condition) condition[part] = names(condition[part]);
    }
  }

  const bytes = (text) => new TextEncoder().encode(text).length;
  const localPart = (value) => value.slice(0, Math.max(value.lastIndexOf("@"), 0));

  // The domain as mail and lists have it: in small letters, other scripts as xn--.
  function domain(value) {
    const written = value.slice(value.lastIndexOf("@") + 1).toLowerCase();
    if (/^[\x00-\x7F]*$/.test(written)) return written;
    try {
      return new URL("http://" + written).hostname;
    } catch {
      return written;
    }
  }

  function isOrLiesBelow(name, all) {
    for (let rest = name; ; rest = rest.slice(rest.indexOf(".") + 1)) {
      if (all.has(rest)) return true;
      if (!rest.includes(".")) return false;
    }
  }

  function holds(condition, value) {
    const { where, is, not, most, ofLocalPart, below, at, under, but, named } = condition;
    if (where && !where.test(value)) return true;
    if (is && !is.test(value)) return false;
    if (not && not.test(value)) return false;
    if (most && bytes(ofLocalPart ? localPart(value) : value) > most) return false;
    if (named && named.has(localPart(value).toLowerCase().replace(/(.)\+.*$/s, "$1"))) return false;
    if (!below && !at && !under) return true;
    const name = domain(value);
    if (below) return isOrLiesBelow(name, below);
    const isListed = (at && at.has(name)) || (under && isOrLiesBelow(name, under));
    return !isListed || Boolean(but && isOrLiesBelow(name, but));
  }

  // What may be wrong only because the address is not typed to its end yet.
  const unfinished = names("no-at-sign empty-domain one-label-domain trailing-dot unknown-tld hyphen-at-edge numeric-tld house-format pattern");

  let fields = 0;

  class AddressEntry extends HTMLElement {
    static fault(value) {
      const failed = conditions.find((condition) => !holds(condition, value));
      return failed ? { finding: failed.finding, sentence: failed.message } : null;
    }

    connectedCallback() {
      const input = this.querySelector("input");
      if (!input || this.shown) return;
      this.shown = document.createElement("output");
      this.shown.id = `address-entry-${++fields}`;
      input.setAttribute("aria-describedby", this.shown.id);
      this.append(this.shown);
      const look = (finished) => {
        // An empty field is for the attribute required.
        const fault = input.value === "" ? null : AddressEntry.fault(input.value);
        input.setCustomValidity(fault ? fault.sentence : "");
        const isShown = fault && (finished || !unfinished.has(fault.finding));
        this.shown.value = isShown ? fault.sentence : "";
        input.setAttribute("aria-invalid", String(Boolean(isShown)));
      };
      input.addEventListener("input", () => look(this.shown.value !== ""));
      input.addEventListener("change", () => look(true));
      if (input.value !== "") look(true);
    }
  }

  window.AddressEntry = AddressEntry;
  customElements.define("address-entry", AddressEntry);
})();
