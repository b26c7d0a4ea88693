import { settingsFromEnvironment } from './connection';
import { migrate } from './migrate';

// Run as a program: brings the database that the environment names to the newest migration.
const done = await migrate(settingsFromEnvironment());
process.stdout.write(done.length > 0 ? `migrated: ${done.join(', ')}\n` : 'nothing to migrate\n');
