import { readDatabaseSettings } from '../server/config';
import { migrate } from '../server/db';

// Brings the database that the environment names to the newest migration.
const done = await migrate(readDatabaseSettings(process.env));
process.stdout.write(done.length > 0 ? `migrated: ${done.join(', ')}\n` : 'nothing to migrate\n');
