/** A function to await inside long loops: it lets other work of the thread go on every 8 ms. */
export function breather(): () => Promise<void> | undefined {
  let last = performance.now();
  return () => {
    if (performance.now() - last < 8) return undefined;
    return new Promise((resume) =>
      setImmediate(() => {
        last = performance.now();
        resume();
      }),
    );
  };
}
