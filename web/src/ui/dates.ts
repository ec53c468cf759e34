/** Dates and times as they are told. */
export const when = (text: string) =>
  new Date(text).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
