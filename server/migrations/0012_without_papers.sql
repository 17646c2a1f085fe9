DROP TABLE "records" CASCADE;--> statement-breakpoint
ALTER TABLE "bays" DROP COLUMN "paper";--> statement-breakpoint
ALTER TABLE "bays" DROP COLUMN "instruments";--> statement-breakpoint
ALTER TABLE "jobs" DROP COLUMN "vehicle";--> statement-breakpoint
ALTER TABLE "jobs" DROP COLUMN "bay";--> statement-breakpoint
ALTER TABLE "jobs" DROP COLUMN "question";--> statement-breakpoint
ALTER TABLE "jobs" DROP COLUMN "method";--> statement-breakpoint
ALTER TABLE "jobs" DROP COLUMN "weather";--> statement-breakpoint
ALTER TABLE "jobs" DROP COLUMN "day";--> statement-breakpoint
ALTER TABLE "setups" DROP COLUMN "paper";--> statement-breakpoint
ALTER TABLE "pulls" DROP COLUMN "paper";--> statement-breakpoint
ALTER TABLE "recordings" DROP COLUMN "paper";