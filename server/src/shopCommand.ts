import 'reflect-metadata';
import { Logger } from '@nestjs/common';
import { isEmail } from 'class-validator';
import { Database } from './database/database.ts';
import { newShop, passwordLink } from './people/newShop.ts';

/**
 * The operator's commands: makes a shop, or a link for a lost password, and prints the link's secret. Arguments: "add" with name and
 * e-mail, or "password" with e-mail. Run by the launcher.
 */
Logger.overrideLogger(false);
const [command, ...given] = process.argv.slice(2).map((text) => text.trim());
const [name, email = ''] = command === 'add' ? given : ['a shop', ...given];
if (!name || name.length > 120 || !isEmail(email)) {
  console.error('A shop has a name of at most 120 characters, and a person an e-mail address.');
  process.exitCode = 2;
} else {
  const database = new Database();
  try {
    const secret = command === 'add' ? await newShop(database, name, email) : await passwordLink(database, email);
    if (secret === null) {
      console.error('Nobody has this e-mail address.');
      process.exitCode = 1;
    } else console.log(secret);
  } finally {
    await database.onApplicationShutdown();
  }
}
