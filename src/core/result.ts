/** An expected refusal or a value. Exceptions are for bugs and broken machines only. */
export type Result<T, R> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly refusal: R };

export const accepted = <T>(value: T): { ok: true; value: T } => ({ ok: true, value });
export const refused = <R>(refusal: R): { ok: false; refusal: R } => ({ ok: false, refusal });
