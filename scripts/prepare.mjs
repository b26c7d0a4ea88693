// Before a command that needs the built program: Node, disk, Debian's programs, packages, the build. Uses no package.
import { checkDisk, checkNode, needBuild, needModules, needPrograms, Refusal } from './checks.mjs';

try {
  checkNode();
  checkDisk();
  const programs = process.argv.includes('--no-database') ? {} : { mariadbd: 'mariadb-server' };
  if (process.argv.includes('--browser')) {
    programs['chromium-headless-shell'] = 'chromium-headless-shell';
    programs.openssl = 'openssl';
    programs.slapd = 'slapd';
  }
  needPrograms(programs);
  needModules();
  if (!process.argv.includes('--no-build')) needBuild();
} catch (error) {
  process.stderr.write(`${error instanceof Refusal ? error.message : error.stack}\n`);
  process.exit(1);
}
