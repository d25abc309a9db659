/** "14 kB". */
export function sayBytes(bytes: number): string {
  if (bytes < 1000) return `${bytes} bytes`;
  const units = ['kB', 'MB', 'GB'];
  let value = bytes / 1000;
  let unit = 0;
  while (value >= 1000 && unit < units.length - 1) {
    value /= 1000;
    unit += 1;
  }
  return `${value >= 10 ? Math.round(value) : value.toFixed(1)} ${units[unit]}`;
}

/**
 * Sends a file to be brought in. XMLHttpRequest, since fetch does not tell how far an
 * upload is. Returns the import's number, or what went wrong.
 */
export function upload(
  file: File,
  values: { kind: string; source: string; timezone: string; session?: string; part?: string; hold?: string },
  mapping: object | null,
  onProgress: (percent: number) => void,
): Promise<number | string> {
  const given = Object.entries({ ...values, file_name: file.name }).filter(([, value]) => value);
  const query = new URLSearchParams(given as [string, string][]);
  if (mapping) query.set('mapping', JSON.stringify(mapping));
  return new Promise((resolve) => {
    const request = new XMLHttpRequest();
    request.upload.onprogress = (event) => onProgress(event.lengthComputable ? (100 * event.loaded) / event.total : 0);
    request.onload = () => {
      try {
        if (request.status === 202) return resolve(JSON.parse(request.responseText).id);
        const { detail, errors } = JSON.parse(request.responseText);
        resolve(
          errors?.map((error: { field: string; message: string }) => `${error.field} ${error.message}`).join('; ') ??
            detail,
        );
      } catch {
        resolve('The file was not taken. Nothing was changed; try again.');
      }
    };
    request.onerror = () => resolve('The connection broke while sending. Nothing was changed; try again.');
    request.open('POST', `/set-up/data/upload?${query}`);
    request.send(file);
  });
}
