import 'reflect-metadata';
import { Logger } from '@nestjs/common';
import { isEmail } from 'class-validator';
import { Database } from './database/database.ts';
import { newShop } from './people/newShop.ts';

/** The operator's command: makes a shop and prints the secret of its owner's link. Arguments: name, e-mail. Run by the launcher. */
Logger.overrideLogger(false);
const [name = '', email = ''] = process.argv.slice(2).map((text) => text.trim());
if (name.length === 0 || name.length > 120 || !isEmail(email)) {
  console.error('A shop has a name of at most 120 characters, and its owner an e-mail address.');
  process.exitCode = 2;
} else {
  const database = new Database();
  try {
    console.log(await newShop(database, name, email));
  } finally {
    await database.onApplicationShutdown();
  }
}
