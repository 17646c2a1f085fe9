import { spawn } from 'node:child_process';
import { createWriteStream, openAsBlob, readdirSync, readFileSync, writeFileSync } from 'node:fs';
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
  await app.ask('GET', '/health');
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
  const { longestStallMs } = await app.ask('GET', '/health');
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
  console.log(`longest stall of the pages’ event loop meanwhile: ${longestStallMs} ms`);
  console.log(
    `peak memory: pages ${peak.pages} MB (${(peak.pages / LARGE_MB).toFixed(1)} × the file), bays ${peak.bays} MB`,
  );
}

/** A day of 500 files of some 100 kB, from sending them until they are laid out, beside a bare parse of the same bytes. */
export async function dayOfFiles(app, folder) {
  const files = Array.from({ length: 500 }, (_, k) => {
    const at = new Date(Date.UTC(2026, 8, 1, 8) + k * 240_000 + Math.floor(k / 7) * 3_600_000).toISOString();
    const rows = Array.from({ length: 2400 }, (_, i) =>
      [i / 100, 2000 + 1.9 * i + (k % 9), 40 + i / 40 + ((i * 7919 + k * 31) % 97) / 400, 20 + i / 900, 85 + i / 3000]
        .map((v) => v.toFixed(3))
        .join(','),
    );
    const head = `Recorded: ${at.slice(0, 19).replace('T', ' ')}\nAir temperature: 21.5 °C\n`;
    return `${head}Time [s],RPM [rpm],Power [kW],Intake air [°C],Coolant [°C]\n${rows.join('\n')}\n`;
  });
  const path = join(folder, 'day.csv');
  writeFileSync(path, files.join(''));
  const bare = await bareParse(path);
  const job = await newJob(app, 'Bench day');
  const form = new FormData();
  files.forEach((text, k) => form.append('files', new Blob([text]), `run_${k}.csv`));
  await app.ask('GET', '/health');
  const from = now();
  const staged = await app.ask('POST', `/jobs/${job}/staged-files`, form);
  const readS = (now() - from) / 1000;
  const columns = staged[0].columns.map(({ role, unit }) => ({ role, unit }));
  const { pulls } = await app.ask('POST', `/jobs/${job}/day-layout`, {
    files: staged.map(({ id }) => ({ id, shape: 0 })),
    shapes: [{ columns, answers: null }],
    timeZone: 'UTC',
  });
  const allS = (now() - from) / 1000;
  const { longestStallMs } = await app.ask('GET', '/health');
  const mb = files.reduce((sum, text) => sum + text.length, 0) / 1e6;
  console.log(
    `a day of files: ${files.length} of ${(mb * 1000) / files.length} kB read in ${readS.toFixed(1)} s and laid out as ${pulls.length} pulls after ${allS.toFixed(1)} s; a bare CSV parse of the same bytes takes ${bare.toFixed(1)} s: ${(bare / allS).toFixed(2)} ×; longest stall of the event loop ${longestStallMs} ms`,
  );
}
