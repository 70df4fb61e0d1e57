/** Whether two values are the same when written as JSON. */
export const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
