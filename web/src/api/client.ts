/** REST: the list of parts and what the service publishes about itself. */
import createClient from 'openapi-fetch';
import type { paths } from './generated';
import {
  Refusal,
  type About,
  type CurvesReceived,
  type FileReceived,
  type HandbookPage,
  type PartSummary,
  type TogetherTold,
  type VersionsOfPart,
} from './types';

const client = createClient<paths>({ baseUrl: '' });

type Answer<T> = { data?: T; error?: unknown };

async function taken<T>(answer: Promise<Answer<T>>): Promise<T> {
  let result: Answer<T>;
  try {
    result = await answer;
  } catch {
    throw new Refusal('Wendal does not answer. Is it still running? Start it with: make demo');
  }
  if (result.error !== undefined) {
    const told = result.error as { message?: string; field?: string; code?: string };
    throw new Refusal(told.message ?? 'This was refused.', told.field, '', null, told.code);
  }
  return result.data as T;
}

/** The ending of a part with all its versions. */
export const HISTORY = 'wendal-part';

let about: Promise<About> | undefined;

export const api = {
  about: (): Promise<About> => (about ??= taken(client.GET('/api/about'))),
  list: (bin = false): Promise<PartSummary[]> =>
    taken(client.GET('/api/parts', { params: { query: { bin } } })),
  /** When the latest copy of all parts was made, or "". */
  copied: async (): Promise<string> => (await taken(client.GET('/api/health'))).copied,
  handbook: (): Promise<HandbookPage[]> => taken(client.GET('/api/handbook')),
  create: (name: string): Promise<PartSummary> => taken(client.POST('/api/parts', { body: { name } })),
  read: (text: string): Promise<PartSummary> =>
    taken(client.POST('/api/parts/read', { body: { text, ending: 'json' } })),
  /** Take a file with all of a part's versions in as a new part. */
  async readHistory(file: Blob): Promise<void> {
    const response = await fetch('/api/parts/history', { method: 'POST', body: file });
    if (!response.ok) throw new Refusal(((await response.json()) as { message: string }).message);
  },
  rename: (part: number, name: string): Promise<PartSummary> =>
    taken(client.PATCH('/api/parts/{part}', { params: { path: { part } }, body: { name } })),
  copy: (part: number): Promise<PartSummary> =>
    taken(client.POST('/api/parts/{part}/copy', { params: { path: { part } } })),
  /** Put a part into the bin, or take it from there for good. */
  remove: (part: number, for_good = false): Promise<unknown> =>
    taken(client.DELETE('/api/parts/{part}', { params: { path: { part }, query: { for_good } } })),
  bringBack: (part: number): Promise<unknown> =>
    taken(client.POST('/api/parts/{part}/back', { params: { path: { part } } })),
  label: (part: number, labels: string): Promise<unknown> =>
    taken(client.PUT('/api/parts/{part}/labels', { params: { path: { part } }, body: { labels } })),
  versions: (part: number): Promise<VersionsOfPart> =>
    taken(
      client.GET('/api/parts/{part}/versions', { params: { path: { part } } }),
    ) as Promise<VersionsOfPart>, // the client takes pairs for lists
  nameVersion: (part: number, number: number, name: string): Promise<unknown> =>
    taken(
      client.PUT('/api/parts/{part}/versions/{number}/name', {
        params: { path: { part, number } },
        body: { name },
      }),
    ),
  backTo: (part: number, number: number): Promise<unknown> =>
    taken(client.POST('/api/parts/{part}/versions/{number}/back', { params: { path: { part, number } } })),
  /** What bringing another branch in would come to. */
  lookTogether: (
    id: number,
    part: number,
    version: number,
    chosen: Record<string, 'ours' | 'theirs'>,
  ): Promise<TogetherTold> =>
    taken(
      client.POST('/api/parts/{part}/together/look', {
        params: { path: { part: id } },
        body: { part, version, chosen, edition: 0 },
      }),
    ) as Promise<TogetherTold>,
  bringTogether: (
    id: number,
    part: number,
    version: number,
    chosen: Record<string, 'ours' | 'theirs'>,
    edition: number,
  ): Promise<unknown> =>
    taken(
      client.POST('/api/parts/{part}/together', {
        params: { path: { part: id } },
        body: { part, version, chosen, edition },
      }),
    ),
  branch: (part: number, number: number): Promise<PartSummary> =>
    taken(client.POST('/api/parts/{part}/versions/{number}/branch', { params: { path: { part, number } } })),
  picture: (part: PartSummary) => `/api/parts/${part.id}/picture.svg?v=${part.version}`,

  /** Fetch a file and hand it to the browser to keep; refusals come as words, not as a broken download. */
  async download(part: number, ending: string, version = 0): Promise<void> {
    const path = ending === HISTORY ? `history.${ending}` : `file.${ending}`;
    const response = await fetch(`/api/parts/${part}/${path}?version=${version}`);
    if (!response.ok) throw new Refusal(((await response.json()) as { message: string }).message);
    const name = decodeURIComponent(
      /''(.+)$/.exec(response.headers.get('content-disposition') ?? '')?.[1] ?? `part.${ending}`,
    );
    hand(await response.blob(), name);
  },

  /**
   * Send a STEP or STL file for a step; before : the digest of an older one, whose faces keep their numbers;
   * unit : of a file that does not say it.
   */
  async receive(part: number, file: File, before = '', unit = ''): Promise<FileReceived> {
    const query = new URLSearchParams({ name: file.name, before, unit });
    const response = await fetch(`/api/parts/${part}/files?${query}`, { method: 'POST', body: file });
    const told = (await response.json()) as FileReceived & { message: string };
    if (!response.ok) throw new Refusal(told.message);
    return told;
  },

  /** A table, as CSV, as a spreadsheet. */
  async sheet(name: string, table: string): Promise<Blob> {
    const response = await fetch(`/api/parts/tables?${new URLSearchParams({ name })}`, {
      method: 'POST',
      body: table,
    });
    if (!response.ok) throw new Refusal(((await response.json()) as { message: string }).message);
    return response.blob();
  },

  /** A spreadsheet's first sheet as CSV. */
  async table(file: File): Promise<string> {
    const response = await fetch('/api/parts/tables/read', { method: 'POST', body: file });
    if (!response.ok) throw new Refusal(((await response.json()) as { message: string }).message);
    return response.text();
  },

  /** Read a DXF file's curves for a sketch; nothing is changed. layers : those that are taken, null for all. */
  async curves(
    part: number,
    file: File,
    unit: string,
    layers: string[] | null,
    within: number,
  ): Promise<CurvesReceived> {
    const query = new URLSearchParams({ unit, within: String(within) });
    for (const layer of layers ?? []) query.append('layer', layer);
    const response = await fetch(`/api/parts/${part}/curves?${query}`, { method: 'POST', body: file });
    const told = (await response.json()) as CurvesReceived & { message: string; field: string };
    if (!response.ok) throw new Refusal(told.message, told.field);
    return told;
  },

  /** Write files and hand them to the browser to keep; returns how large it is, in words. */
  async write(part: number, orders: object[], version = 0, until?: AbortSignal): Promise<string> {
    const { blob, name } = await written(part, orders, version, [], until);
    hand(blob, name);
    return blob.size < 1e6 ? `${Math.ceil(blob.size / 1e3)} kB` : `${(blob.size / 1e6).toFixed(1)} MB`;
  },

  /** Write files, and give their content. */
  async written(part: number, orders: object[], version: number, until: AbortSignal): Promise<Blob> {
    return (await written(part, orders, version, [], until)).blob;
  },

  /** Write files of members of the family, as one zip; return its size in words. */
  async writeFamily(part: number, orders: object[], family: string[], version = 0): Promise<string> {
    const { blob, name } = await written(part, orders, version, family);
    hand(blob, name);
    return blob.size < 1e6 ? `${Math.ceil(blob.size / 1e3)} kB` : `${(blob.size / 1e6).toFixed(1)} MB`;
  },

  /** Open a file that is written beside this page, from where the browser prints it; false where it may not. */
  async print(part: number, orders: object[], version = 0): Promise<boolean> {
    const { blob } = await written(part, orders, version);
    const url = URL.createObjectURL(blob);
    setTimeout(() => URL.revokeObjectURL(url), 600_000);
    return window.open(url) !== null;
  },
};

async function written(
  part: number,
  orders: object[],
  version: number,
  family: string[] = [],
  until?: AbortSignal,
) {
  const response = await fetch(`/api/parts/${part}/write?version=${version}`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ orders, family }),
    signal: until,
  });
  if (!response.ok) throw new Refusal(((await response.json()) as { message: string }).message);
  const held = /''(.+)$/.exec(response.headers.get('content-disposition') ?? '')?.[1] ?? 'part';
  return { blob: await response.blob(), name: decodeURIComponent(held) };
}

function hand(content: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(content);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
