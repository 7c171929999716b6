import createClient, { type Middleware } from "openapi-fetch";
import { bare, isolate } from "./direction";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

/** Refusal is an answer that refuses, in the server's words. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly now: unknown,
  ) {
    super(message);
  }
}

const orSignIn: Middleware = {
  onResponse({ response, request }) {
    if (response.status === 401 && !request.url.endsWith("/api/session")) {
      const here = location.pathname + location.search;
      if (!here.startsWith("/sign-in")) location.assign(`/sign-in?to=${encodeURIComponent(here)}`);
    }
  },
};

/**
 * What is written from right to left is isolated where it comes in, so that a figure or a word
 * beside it keeps its place; a character that turns the direction of writing is shown by its
 * code. What goes out again goes out as it came.
 */
const isolated: Middleware = {
  async onResponse({ response }) {
    if (!response.headers.get("Content-Type")?.includes("json") || response.bodyUsed) return;
    const text = await response.text();
    return new Response(isolate(text), { status: response.status, statusText: response.statusText, headers: response.headers });
  },
  async onRequest({ request }) {
    const url = bare(request.url);
    const text = request.body ? await request.clone().text() : "";
    if (url === request.url && bare(text) === text) return;
    return new Request(url, { method: request.method, headers: request.headers, body: request.body ? bare(text) : undefined, signal: request.signal });
  },
};

export const api = createClient<paths>({ baseUrl: "/" });
api.use(orSignIn, isolated);

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

const offline = () =>
  new Refusal(0, "offline", "The server does not answer. What you just did may not be saved; look here once it answers, before you do it again.", null);

/** noAnswer says whether the server did not answer, as against refusing. */
export function noAnswer(e: unknown): boolean {
  return e instanceof Refusal && (e.status === 0 || e.status >= 500);
}

/** unwrap gives the data of an answer, or throws its refusal. */
export async function unwrap<T>(call: Promise<Answer<T>>): Promise<T> {
  const { data, error, response } = await call.catch((e: unknown) => {
    if (e instanceof TypeError) throw offline(); // what a browser says when nobody answers
    throw e;
  });
  if (response.ok && data !== undefined) return data;
  const p = (error ?? {}) as { code?: string; detail?: string; now?: unknown; errors?: { message?: string; location?: string }[] };
  let text = p.detail ?? "The server did not answer as expected; try again.";
  for (const e of p.errors ?? []) text += ` ${e.location ?? ""}: ${e.message ?? ""}`;
  throw new Refusal(response.status, p.code ?? "unknown", text, p.now);
}

// What stands between may answer with a page of its own.
function said(text: string): Record<string, unknown> {
  try {
    return JSON.parse(isolate(text || "{}")) as Record<string, unknown>;
  } catch {
    return {};
  }
}

/** send uploads bytes with progress; abort it through the signal. */
function send<T>(url: string, data: Blob, onProgress: (share: number) => void, signal: AbortSignal): Promise<T> {
  return new Promise((resolve, reject) => {
    const x = new XMLHttpRequest();
    x.open("POST", url);
    x.setRequestHeader("Content-Type", "application/octet-stream");
    x.upload.onprogress = (e) => e.lengthComputable && onProgress(e.loaded / e.total);
    x.onload = () => {
      const body = said(x.responseText);
      if (x.status < 300) resolve(body as T);
      else
        reject(
          new Refusal(x.status, String(body.code ?? "unknown"), String(body.detail ?? "The server did not answer as expected; nothing was saved."), body.now),
        );
    };
    x.onerror = () => reject(offline());
    x.onabort = () => reject(new Refusal(0, "cancelled", "Cancelled; nothing was saved.", null));
    signal.addEventListener("abort", () => x.abort());
    x.send(data);
  });
}

/** bring uploads a file of a client. */
export function bring(client: number, as: string, name: string, data: Blob, onProgress: (share: number) => void, signal: AbortSignal) {
  return send<Schemas["Batch"]>(`/api/clients/${client}/batches?as=auto&place=${as}&name=${encodeURIComponent(name)}`, data, onProgress, signal);
}

/** bringBundle makes a client from a bundle; name is another one for it, or "". */
export function bringBundle(name: string, data: Blob, onProgress: (share: number) => void, signal: AbortSignal) {
  return send<Schemas["Client"]>(`/api/bundles?name=${encodeURIComponent(name)}`, data, onProgress, signal);
}

/** attach keeps a PDF or a picture beside a file. */
export async function attach(client: number, batch: number, file: File): Promise<Schemas["Attachment"][]> {
  const r = await fetch(`/api/clients/${client}/batches/${batch}/attachments?name=${encodeURIComponent(file.name)}`, {
    method: "POST",
    headers: { "Content-Type": "application/octet-stream" },
    body: file,
  });
  const body = said(await r.text());
  if (r.ok) return body as unknown as Schemas["Attachment"][];
  throw new Refusal(r.status, String(body.code), String(body.detail ?? "The paper could not be kept; try again."), body.now);
}
