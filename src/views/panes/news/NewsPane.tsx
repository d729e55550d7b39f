import { useStore } from '@nanostores/react';
import { useEffect } from 'react';
import { clockText } from '../../../kit/clock.ts';
import { Empty } from '../../../kit/Empty.tsx';
import { Filters } from '../../../kit/Filters.tsx';
import { InstrumentName } from '../../../kit/Instrument.tsx';
import { $news, followHeadlines, instrumentOf, zoneOf } from '../../../live/index.ts';
import { useRinged } from '../../act/table.ts';
import { $letters, $panes, setInstrument, setPaneSetting, targetOf } from '../../workspace/panes.ts';
import { readSettings } from '../../workspace/settings.ts';
import { NEWS } from './settings.ts';
import { usePaneCommands } from '../../act/keys.ts';

/** Headlines of the linked instrument and its other listings, or of the whole coast. */
export default function NewsPane({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  useStore($letters);
  const news = useStore($news);
  useEffect(followHeadlines, []);
  const target = targetOf(id);
  const all = readSettings(pane, NEWS).all || !target;
  const ticker = target ? instrumentOf(target.instrument)?.ticker : undefined;
  const rows = news.filter(({ instrument }) => all || (instrument !== null && instrumentOf(instrument)?.ticker === ticker)).reverse();
  const { ringed, ring, commands } = useRinged(
    rows.map(({ seq }) => String(seq)),
    (seq) => {
      const found = rows.find((row) => String(row.seq) === seq)?.instrument;
      if (found) setInstrument(id, found);
    },
  );
  usePaneCommands(id, commands);
  return (
    <div className="flex h-full flex-col">
      <Filters
        label="Which headlines"
        options={[
          { value: 'all', words: 'all' },
          { value: 'linked', words: ticker ?? 'linked' },
        ]}
        chosen={all ? 'all' : 'linked'}
        onChoose={(value) => setPaneSetting(id, 'all', value === 'all')}
      />
      <div className="scroll min-h-0 flex-1" tabIndex={0} role="group" aria-label="Headlines">
        {rows.length === 0 && (
          <div className="p-2 text-quiet">
            {all ? (
              'No headlines yet.'
            ) : (
              <Empty says={`No headlines about ${ticker ?? 'it'}.`} offers="show all" onOffer={() => setPaneSetting(id, 'all', true)} />
            )}
          </div>
        )}
        <ul>
          {rows.map(({ seq, time, instrument, text }) => (
            <li
              key={seq}
              className={`flex gap-2 border-b border-hair px-2 py-[2px] ${ringed === String(seq) ? 'bg-raised' : ''}`}
              onPointerDown={() => ring(String(seq))}
            >
              <span className="figure text-quiet shrink-0 leading-[18px]">{clockText(zoneOf(instrument), time, 'MM-dd HH:mm')}</span>
              <span>
                {instrument && (
                  <span className="mr-2">
                    <InstrumentName id={instrument} />
                  </span>
                )}
                {text}
              </span>
            </li>
          ))}
        </ul>
      </div>
    </div>
  );
}
