// Letters that are written from right to left: Hebrew, Arabic, Syriac, Thaana, N'Ko and their
// presentation forms.
const letters = "\u0590-\u08FF\uFB1D-\uFDFF\uFE70-\uFEFC";
// A run of them, with what stands between two of them: blanks, points, dashes and figures.
const run = new RegExp(`[${letters}](?:[${letters}\\s.,'’&()/\\d-]*[${letters}])?`, "g");
const turning = /[\u061C\u200E\u200F\u202A-\u202E\u2066-\u2069]/g;

/** isolate keeps what stands beside right-to-left text in its place, and shows what would turn it. */
export function isolate(text: string): string {
  return text.replace(turning, (c) => `⟨U+${c.charCodeAt(0).toString(16).toUpperCase().padStart(4, "0")}⟩`).replace(run, "\u2068$&\u2069");
}

/** bare takes the isolation off again, in text or in an address. */
export function bare(text: string): string {
  return text.replace(/[\u2068\u2069]|%E2%81%A8|%E2%81%A9/g, "");
}
