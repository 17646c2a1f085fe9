/** Waits between two starts of something that keeps stopping, milliseconds; the last one holds. */
const BACK_OFF_MS = [500, 1000, 2000, 4000, 8000, 15_000, 30_000];
/** What ran this long was well; the next stop begins the back-off anew. */
const WELL_MS = 60_000;

/**
 * Keeps a process running: when it ends by itself, its end is told and it is started again, ever more patiently.
 * @param name what it is called in messages
 * @param start starts it; resolves once it is ready to a child process, rejects when it cannot be
 * @returns the first start, and a way to stop for good
 */
export async function supervise(name, start, { stopSignal = 'SIGTERM', stopMs = 8000, say = console.error } = {}) {
  let child = null;
  let stopping = false;
  let failures = 0;
  let timer = null;
  const watch = (started) => {
    child = started;
    const since = Date.now();
    started.once('exit', (code, signal) => {
      child = null;
      if (stopping) return;
      if (Date.now() - since > WELL_MS) failures = 0;
      again(`${name} stopped by itself (${signal ?? `code ${code}`})`);
    });
    if (started.exitCode !== null || started.signalCode !== null) {
      started.removeAllListeners('exit');
      child = null;
      again(`${name} stopped as soon as it was ready`);
    }
  };
  const again = (what) => {
    const wait = BACK_OFF_MS[Math.min(failures, BACK_OFF_MS.length - 1)];
    failures += 1;
    say(`${what}. It is started again in ${wait / 1000} s.`);
    timer = setTimeout(() => {
      start().then(
        (started) => {
          if (stopping) return void started.kill(stopSignal);
          say(`${name} runs again.`);
          watch(started);
        },
        (error) => {
          if (!stopping) again(`${name} could not be started: ${error.message}`);
        },
      );
    }, wait);
  };
  watch(await start());
  return {
    get pid() {
      return child?.pid ?? null;
    },
    async stop() {
      stopping = true;
      clearTimeout(timer);
      const last = child;
      if (!last || last.exitCode !== null || last.signalCode !== null) return;
      await new Promise((done) => {
        last.once('exit', done);
        last.kill(stopSignal);
        setTimeout(() => last.kill('SIGKILL'), stopMs).unref();
      });
    },
  };
}
