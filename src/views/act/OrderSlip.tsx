import { useStore } from '@nanostores/react';
import { $slip } from '../../client/gestures/index.ts';
import { later, usePart } from '../../kit/later.ts';

const ONE = later(() => import('./OpenSlip.tsx'));
const PAIR = later(() => import('./PairSlip.tsx'));

/** The slip that is open, of one order or of a pair. */
export function OrderSlip() {
  const slip = useStore($slip);
  const one = usePart(ONE, slip?.kind === 'order');
  const pair = usePart(PAIR, slip?.kind === 'pair');
  if (!slip) return null;
  if (slip.kind === 'pair') return pair && <pair.OpenPairSlip key={slip.openedAt} slip={slip} />;
  return one && <one.OpenSlip key={slip.openedAt} slip={slip} />;
}
