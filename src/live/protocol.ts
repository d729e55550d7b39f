/** What a window says to the shared worker that holds the one stream for all windows. */
export type ToStream =
  /** All topics it follows, and those of them that begin anew though it followed them a moment ago. */
  | { readonly kind: 'topics'; readonly topics: readonly string[]; readonly anew: readonly string[]; readonly csrf: string }
  | { readonly kind: 'close' }
  | { readonly kind: 'share'; readonly key: string; readonly value: unknown };

export interface TopicMessage {
  readonly topic: string;
  readonly snapshot: boolean;
  readonly data: unknown;
}

/** Times of the server's machine: now, and when it last heard each. */
export interface Beat {
  readonly now: string;
  readonly venues: Readonly<Record<string, string>>;
  readonly broker: string;
}

export type FromStream =
  /** What was heard of topics, and when the first of it came (machine time). */
  | { readonly kind: 'topics'; readonly messages: readonly TopicMessage[]; readonly at: number }
  | { readonly kind: 'beat'; readonly beat: Beat; readonly at: number }
  /** The stream is open or lost, since a machine time. */
  | { readonly kind: 'status'; readonly open: boolean; readonly since: number }
  /** What the windows have in common, as another one has set it. */
  | { readonly kind: 'shared'; readonly values: Readonly<Record<string, unknown>> }
  /** The server does not let these topics be followed, and why. */
  | { readonly kind: 'refused'; readonly topics: readonly string[]; readonly words: string }
  | { readonly kind: 'signed-out' };
