import { useStore } from '@nanostores/react';
import { $consentAsked, answerConsent } from '../../client/consent.ts';
import { Button } from '../../kit/Button.tsx';
import { Dialog } from '../../kit/Dialog.tsx';

/** What it means that exits are held here, asked once. */
export function ConsentQuestion() {
  const asked = useStore($consentAsked);
  if (!asked) return null;
  return (
    <Dialog title="Held here: what that means" onClose={() => void answerConsent(false)}>
      <p>An order or exit plan held here waits in Kavix. The venue knows nothing of it until it fires.</p>
      <ul className="my-2 list-disc pl-5">
        <li>It runs in the server: closing this browser changes nothing.</li>
        <li>While Kavix is off, or the broker or the prices are cut off, it is suspended and does not fire. You see that at once.</li>
        <li>When it is back, a level that was passed meanwhile fires at the price there is then, which may be worse. A plan can ask instead.</li>
        <li>It goes out when its price is seen, so it fills later than an order that waits at the venue.</li>
      </ul>
      <div className="mt-3 flex gap-2">
        <Button onClick={() => void answerConsent(true)}>I understand: hold it here</Button>
        <Button onClick={() => void answerConsent(false)}>leave it</Button>
      </div>
    </Dialog>
  );
}
