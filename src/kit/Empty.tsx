import { Button } from './Button.tsx';

interface Props {
  /** One sentence: what there is none of. */
  readonly says: string;
  /** What the one action is called; it says why not where it can't be done now. */
  readonly offers: string;
  readonly cannot?: string | null;
  readonly onOffer: () => void;
}

/** What stands where there is nothing: one sentence, and the one thing that can be done about it. */
export function Empty({ says, offers, cannot = null, onOffer }: Props) {
  return (
    <p className="flex flex-wrap items-center gap-x-3 gap-y-1 text-quiet">
      {says}
      <Button size="small" className="text-ink" disabled={cannot !== null} title={cannot ?? undefined} onClick={onOffer}>
        {offers}
      </Button>
    </p>
  );
}
