/** Which page of the handbook is open, "" for none. Any place may open one. */
export const handbook = $state({ page: '' });
