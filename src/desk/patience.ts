/** Between two tries of what has to succeed in the end. */
export const WRITE_AGAIN_MS = 50;

export const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
