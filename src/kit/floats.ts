/** How everything that floats over the panes looks. */
export const FLOAT = 'z-[60] rounded-[2px] border border-line bg-raised text-ink shadow-[0_6px_20px_rgb(0_0_0/40%)]';
/** The same for what stands outside the window's content, and so is drawn larger by itself. */
export const FLOAT_APART = `${FLOAT} [zoom:var(--zoom)]`;

let heard: () => void = () => undefined;

/** Tells one listener whenever a popover or menu closes: the press that closed it was for that alone. */
export const whenFloatCloses = (listener: () => void): void => {
  heard = listener;
};

export const floatClosed = (): void => heard();
