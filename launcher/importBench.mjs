import { spawn } from 'node:child_process';
import { createWriteStream, openAsBlob, readdirSync, readFileSync } from 'node:fs';
import { once } from 'node:events';
import { join } from 'node:path';
import { LIGHT, lightRequests, newJob, now, percentile } from './benchApp.mjs';
import { ROOT } from './run.mjs';

const LARGE_MB = Number(process.env.PRANDEL_BENCH_MB ?? 190);

/** Writes a long pull as CSV. @returns its path */
async function largeFile(folder, megabytes) {
  const path = join(folder, 'large.csv');
  const out = createWriteStream(path);
  out.write('Time (s),RPM,Power (kW),Torque (Nm),IAT (C),ECT (C),Oil (C),Boost (kPa),Lambda,Ignition\r\n');
  const bytes = megabytes * 1e6;
  let written = 0;
  for (let i = 0; written < bytes;) {
    const lines = [];
    for (let k = 0; k < 5000; k += 1, i += 1) {
      const w = Math.sin(i / 50);
      lines.push(
        [
          i / 1000,
          2000 + (i % 1_900_000) / 380,
          90 + w,
          120 - w,
          30 + w / 9,
          90 + w / 7,
          95 + w / 8,
          150 + w,
          0.9 + w / 99,
          20 + w,
        ]
          .map((v) => v.toFixed(5))
          .join(','),
      );
    }
    const piece = `${lines.join('\r\n')}\r\n`;
    written += piece.length;
    if (!out.write(piece)) await once(out, 'drain');
  }
  out.end();
  await once(out, 'close');
  return path;
}

/** Seconds of a bare parse of the same bytes by the usual CSV library, in a process of its own. */
async function bareParse(path) {
  const child = spawn(process.execPath, [
    '--max-old-space-size=8000',
    '-e',
    `const Papa=require(${JSON.stringify(join(ROOT, 'node_modules/papaparse/papaparse.js'))});const t=require('fs').readFileSync(${JSON.stringify(path)},'utf8');
     const a=performance.now();let n=0;Papa.parse(t,{delimiter:',',step:()=>{n+=1}});console.log((performance.now()-a)/1000)`,
  ]);
  let out = '';
  child.stdout.on('data', (piece) => (out += piece));
  await once(child, 'exit');
  return Number(out);
}

/** Highest resident memory of the application's server processes so far, MB. */
function peakMemory(launcher) {
  const peaks = {};
  for (const name of readdirSync('/proc').filter((n) => /^\d+$/.test(n)))
    try {
      const status = readFileSync(`/proc/${name}/status`, 'utf8');
      if (!new RegExp(`^PPid:\\t${launcher}$`, 'm').test(status)) continue;
      const kind = /PRANDEL_PROCESS=(\w+)/.exec(readFileSync(`/proc/${name}/environ`, 'utf8'))?.[1];
      if (kind) peaks[kind] = Math.round(Number(/VmHWM:\s+(\d+)/.exec(status)[1]) / 1024);
    } catch {
      // It ended meanwhile.
    }
  return peaks;
}

export async function largeImport(app, bay, folder) {
  const path = await largeFile(folder, LARGE_MB);
  const idle = await lightRequests(
    app,
    (() => {
      const end = now() + 3000;
      return () => now() > end;
    })(),
  );
  const job = await newJob(app, 'Bench import');
  await bay.until((s) => s.state === 'ready');
  let done = false;
  const form = new FormData();
  form.append('files', await openAsBlob(path), 'large.csv');
  const from = now();
  const working = (async () => {
    const [file] = await app.ask('POST', `/jobs/${job}/staged-files`, form);
    const staged = now();
    await app.ask('POST', `/jobs/${job}/imports`, {
      ...{ fileIds: [file.id], setupId: 'A', settle: 0, numberState: { kind: 'uncorrected' } },
      columns: file.columns.map(({ role, unit }) => ({ role, unit })),
    });
    return { stagedS: (staged - from) / 1000, allS: (now() - from) / 1000 };
  })().finally(() => (done = true));
  const busy = lightRequests(app, () => done);
  // A pull in the bay, and a limit that is crossed in it, while all this goes on.
  bay.state.pulling = true;
  await bay.until((s) => (s.recording?.samples ?? 0) > 300);
  bay.state.oil = 0.5;
  const stopMs = await bay.until((s) => s.state === 'stop');
  bay.state.pulling = false;
  bay.state.oil = 3;
  const sent = bay.state.sent;
  await bay.until((s) => s.recording === null && s.waiting === 0 && s.round?.pulls.length > 0);
  const { stagedS, allS } = await working;
  const taken = await busy;
  const answer = await fetch(`${app.base}/api/jobs/${bay.job}/channels`, { headers: { cookie: app.cookie } });
  const head = Buffer.from(await answer.arrayBuffer());
  const index = JSON.parse(head.subarray(4, 4 + head.readUInt32LE(0)).toString());
  const stored = index[0]?.length ?? 0;
  const bare = await bareParse(path);
  const peak = peakMemory(app.launcher);
  console.log(
    `large import: ${LARGE_MB} MB staged in ${stagedS.toFixed(1)} s, imported after ${allS.toFixed(1)} s; a bare CSV parse of the same bytes takes ${bare.toFixed(1)} s: ${(bare / allS).toFixed(2)} × for upload, reading, storing and mapping together`,
  );
  console.log(
    `light requests (GET ${LIGHT}) meanwhile: median ${percentile(taken, 0.5).toFixed(0)} ms, 95th percentile ${percentile(taken, 0.95).toFixed(0)} ms, slowest ${percentile(taken, 1).toFixed(0)} ms; idle ${percentile(idle, 0.5).toFixed(0)} and ${percentile(idle, 0.95).toFixed(0)} ms`,
  );
  console.log(
    `the bay meanwhile: ${stored} samples stored of ${sent} sent at full throttle and what is around them, STOP on the screen ${stopMs.toFixed(0)} ms after the limit was crossed`,
  );
  console.log(`peak memory: pages ${peak.pages} MB, bays ${peak.bays} MB`);
}
