ALTER TABLE "bay_tables" DROP CONSTRAINT "bay_tables_noise_class";--> statement-breakpoint
ALTER TABLE "loggers" ALTER COLUMN "rate_ppm" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "bench_flow_l_s" double precision;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "bench_drop_kpa" double precision;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "bench_air_c" double precision;--> statement-breakpoint
ALTER TABLE "parts" ADD COLUMN "bench_source" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "job_projections" ADD COLUMN "heat_percent_per_c" double precision;--> statement-breakpoint
ALTER TABLE "job_projections" ADD COLUMN "heat_low" double precision;--> statement-breakpoint
ALTER TABLE "job_projections" ADD COLUMN "heat_high" double precision;--> statement-breakpoint
ALTER TABLE "job_projections" ADD COLUMN "heat_pulls" integer;--> statement-breakpoint
ALTER TABLE "job_projections" ADD COLUMN "heat_rounds" integer;--> statement-breakpoint
ALTER TABLE "bay_tables" ADD CONSTRAINT "bay_tables_noise_class" CHECK ("bay_tables"."noise_class" IN ('power', 'bands', 'temperature', 'pressure', 'time'));