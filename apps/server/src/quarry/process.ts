import { spawn } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';

/** The quarry beside the server, as a process of its own. Gives its address. @throws Error with what it said when it does not start */
export function startQuarry(file: string, args: readonly string[] = []): Promise<{ url: string; process: ChildProcess }> {
  const child = spawn(process.execPath, [file, '--port', '0', ...args], { stdio: ['ignore', 'pipe', 'pipe', 'ipc'] });
  return new Promise((resolve, reject) => {
    let said = '';
    const hear = (data: Buffer) => {
      said += data.toString();
      const url = /at (http:\S+)/.exec(said)?.[1];
      if (url) resolve({ url, process: child });
    };
    child.stdout?.on('data', hear);
    child.stderr?.on('data', hear);
    child.once('exit', (code) => reject(new Error(`The quarry ended (${code}): ${said}`)));
  });
}
