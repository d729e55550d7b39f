/** Offers a text as a file. */
export function saveFile(name: string, type: string, content: BlobPart): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([content], { type }));
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}

/** Offers what there is as a file of JSON. */
export const saveJson = (name: string, value: unknown): void => saveFile(name, 'application/json', JSON.stringify(value, null, 2));

/** Has the browser save what an address of this server gives. */
export function saveAddress(name: string, address: string): void {
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
}
