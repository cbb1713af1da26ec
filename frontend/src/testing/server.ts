const ORIGIN = "http://workshop.test/";

/** As in a page, addresses are those of the page. */
export class FromThePage extends Request {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === "string" ? new URL(input, ORIGIN) : input, init);
  }
}

/** What a page asked the server for. */
export interface Asked {
  method: string;
  path: string;
  body: unknown;
}

/** A refusal, as the server tells it. */
export class Refusal {
  constructor(
    readonly status: number,
    readonly detail: string,
    readonly field?: string,
  ) {}
}

type Answer = (request: Request) => Promise<Response>;
const nobody: Answer = () => Promise.reject(new TypeError("nobody there"));
let answering = nobody;

// Whoever is loaded takes what it sends with along: it is there before.
globalThis.Request = FromThePage;
globalThis.fetch = (request) => answering(request as Request);

/** Stands in for the server from now on; returns what it is asked for, in turn. */
export function aServer(answer: (asked: Asked) => unknown): Asked[] {
  const heard: Asked[] = [];
  answering = async (request) => {
    const { pathname, search } = new URL(request.url);
    const path = `${pathname.replace("/api/v1", "")}${search}`;
    const isJson = request.headers.get("Content-Type")?.includes("json");
    const asked = {
      method: request.method,
      path,
      body: isJson ? await request.json() : undefined,
    };
    heard.push(asked);
    const told = await answer(asked);
    if (told instanceof Refusal) {
      const { status, detail, field } = told;
      const errors = field === undefined ? [] : [{ field, message: detail }];
      return Response.json({ status, detail, errors }, { status });
    }
    return Response.json(told);
  };
  return heard;
}

/** From now on nobody answers. */
export function noServer() {
  answering = nobody;
}
