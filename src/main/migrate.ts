import { readDatabaseSettings } from '../server/config';
import { migrate } from '../server/db';

// Brings the database that the environment names to the newest migration.
try {
  const settings = readDatabaseSettings(process.env);
  const done = await migrate(settings, {
    onPlan: (names) =>
      void process.stdout.write(`Database ${settings.database}: will apply ${names.join(', ')}\n`),
  });
  process.stdout.write(
    done.length > 0 ? `Database ${settings.database}: up to date\n` : 'nothing to migrate\n',
  );
} catch (error) {
  // The message alone: an error may hold what it was about, settings too.
  process.stderr.write(`${error instanceof Error ? error.message : 'the database could not be migrated'}\n`);
  process.exitCode = 1;
}
