import type { ReactNode } from 'react';

/** A part of the settings under its own heading. */
export function Section({ title, about, children }: { title: string; about?: string; children: ReactNode }) {
  return (
    <section className="border border-hair p-3" aria-label={title}>
      <h2 className="mb-1 text-[14px] font-semibold">{title}</h2>
      {about !== undefined && <p className="mb-2 text-quiet">{about}</p>}
      {children}
    </section>
  );
}
