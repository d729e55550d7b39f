/** Ways to take a page's table along: as the whole file that the server makes, and on paper where that makes sense. */
export function TakeAway({ address, file, prints = false }: { address: string; file: string; prints?: boolean }) {
  return (
    <>
      <a className="underline" href={address} download={file}>
        export as CSV
      </a>
      {prints && (
        <button type="button" className="underline" onClick={() => window.print()}>
          print
        </button>
      )}
    </>
  );
}
