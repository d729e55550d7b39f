import { useStore } from '@nanostores/react';
import { Empty } from '../../kit/Empty.tsx';
import { $page } from '../pages/route.ts';
import { $target } from '../workspace/panes.ts';
import { noSlip, slipForTarget } from './target-slip.ts';

/** Where there are no orders, positions or fills yet: what there is none of, and the slip that would begin. */
export function EmptyBook({ says }: { says: string }) {
  useStore($target);
  useStore($page);
  return <Empty says={says} offers="open the slip" cannot={noSlip()} onOffer={slipForTarget} />;
}
