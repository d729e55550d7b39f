import type { Client } from './server.ts';

/** What a stream has said of each topic: its snapshots, and its changes. */
export class Heard {
  readonly snapshots = new Map<string, unknown[]>();
  readonly changes = new Map<string, unknown[]>();
  streamId = '';
  private readonly closing = new AbortController();

  async follow(api: Client, topics: readonly string[]): Promise<void> {
    const address = `${api.address}/api/stream?topics=${topics.map((topic) => encodeURIComponent(topic)).join(',')}`;
    const { body } = await fetch(address, { headers: api.credentials, signal: this.closing.signal });
    if (!body) throw new Error('no stream');
    void this.read(body).catch(() => undefined);
  }

  close(): void {
    this.closing.abort();
  }

  private async read(body: ReadableStream<Uint8Array>): Promise<void> {
    let text = '';
    const reader = body.getReader();
    const decoder = new TextDecoder();
    for (let next = await reader.read(); !next.done; next = await reader.read()) {
      const frames = (text + decoder.decode(next.value, { stream: true })).split('\n\n');
      text = frames.pop() ?? '';
      for (const frame of frames) {
        const [, event = '', data = ''] = /event: (\w+)\ndata: (.*)/.exec(frame) ?? [];
        if (event === 'hello') this.streamId = (JSON.parse(data) as { streamId: string }).streamId;
        if (event !== 'snapshot' && event !== 'change') continue;
        const said = JSON.parse(data) as { topic: string; data: unknown };
        const into = event === 'snapshot' ? this.snapshots : this.changes;
        into.set(said.topic, [...(into.get(said.topic) ?? []), said.data]);
      }
    }
  }
}
