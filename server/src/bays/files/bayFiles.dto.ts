import { ApiProperty } from '@nestjs/swagger';
import type { TrayReason } from '@prandel/presentation';

export const TRAY_CODES = [
  'no-job',
  'no-round',
  'unreadable',
  'shape-unknown',
  'numbers-unknown',
  'pulling',
] as const satisfies readonly TrayReason[];

/** A file that became no pull yet. */
export class TrayFile {
  @ApiProperty() id: string;
  @ApiProperty() name: string;
  @ApiProperty() size: number;
  @ApiProperty({ enum: TRAY_CODES, description: 'Why it became no pull.' }) code: TrayReason;
  @ApiProperty({ nullable: true, type: String, description: 'What the reader says of a file that it cannot read.' })
  message: string | null;
  @ApiProperty({ nullable: true, type: String, format: 'date-time' }) changedAt: string | null;
  @ApiProperty({ type: String, format: 'date-time' }) addedAt: string;
}

/** What became of a file that a watched folder brought. */
export class TakenFile {
  @ApiProperty({ enum: ['pull', 'tray', 'known'] }) outcome: 'pull' | 'tray' | 'known';
  @ApiProperty({ type: [String], description: 'Keys of the pulls that it became, or is already.' }) pulls: string[];
  @ApiProperty({ nullable: true, enum: TRAY_CODES, type: String }) code: TrayReason | null;
  @ApiProperty({ nullable: true, type: String }) message: string | null;
}

/** The last file of a bay. */
export class LastFile {
  @ApiProperty() name: string;
  @ApiProperty({ type: String, format: 'date-time' }) at: string;
  @ApiProperty({ type: TakenFile }) taken: TakenFile;
}

/** A bay whose pulls come as files. */
export class BayFiles {
  @ApiProperty({ nullable: true, type: String, description: 'The watched folder, as its computer calls it.' })
  folder: string | null;
  @ApiProperty({ nullable: true, type: String, format: 'date-time', description: 'When the watcher was heard last.' })
  heardAt: string | null;
  @ApiProperty({ type: LastFile, nullable: true }) last: LastFile | null;
  @ApiProperty({ type: [TrayFile] }) tray: TrayFile[];
}
