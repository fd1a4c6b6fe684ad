/** A function to await inside long loops: it lets other work of the thread go on every 15 ms. */
export function breather(): () => Promise<void> | undefined {
  let last = performance.now();
  return () => {
    if (performance.now() - last < 15) return undefined;
    return new Promise((resume) =>
      setImmediate(() => {
        last = performance.now();
        resume();
      }),
    );
  };
}
