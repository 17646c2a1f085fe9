import { ApiProperty } from '@nestjs/swagger';

/** A row of the evidence log, chained by its hash to the row before. */
export class EvidenceLogRow {
  @ApiProperty() n: number;
  @ApiProperty() at: string;
  @ApiProperty() person: string;
  @ApiProperty() kind: string;
  @ApiProperty() what: string;
  @ApiProperty({ description: 'JSON, or empty.' }) detail: string;
  @ApiProperty() hash: string;
}

export class BrokenLink {
  @ApiProperty() n: number;
  @ApiProperty() why: string;
}

export class EvidenceLog {
  @ApiProperty({ type: [EvidenceLogRow] }) rows: EvidenceLogRow[];
  @ApiProperty({ type: BrokenLink, nullable: true, description: 'Where the chain does not hold; null: it holds.' })
  broken: BrokenLink | null;
}
