// This browser: its name for a screen, and what it keeps by itself.

// Made here, and also where a page comes without TLS, which has no randomUUID.
export function madeHere() {
  const bytes = crypto.getRandomValues(new Uint8Array(12));
  return btoa(String.fromCharCode(...bytes)).replace(/[+/]/g, "_");
}

export const screenName = madeHere();

// Where nothing may be kept in this browser, what waits is kept on this page alone.
export const kept = {
  beside: {},
  read(name, otherwise) {
    try {
      return JSON.parse(localStorage.getItem(name)) ?? otherwise;
    } catch {
      return this.beside[name] ?? otherwise;
    }
  },
  names() {
    try {
      return Object.keys(localStorage);
    } catch {
      return Object.keys(this.beside);
    }
  },
  write(name, value) {
    this.beside[name] = value;
    try {
      if (value === null) localStorage.removeItem(name);
      else localStorage.setItem(name, JSON.stringify(value));
    } catch {
      /* it stays beside */
    }
  },
};

// The addresses this browser has been at: the tour on the rack goes by them.
function remember() {
  const here = location.pathname + location.search + location.hash;
  const seen = kept.read("seen", []).filter((address) => address !== here);
  kept.write("seen", [...seen, here].slice(-200));
}

remember();
window.addEventListener("hashchange", remember);
