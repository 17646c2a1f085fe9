import { useMutation } from '@tanstack/react-query';
import { Camera } from 'lucide-react';
import { bring, queries } from '../api/client.ts';

/** Takes photos of a fitting: the camera on a tablet, files at the desk. Several at once; all are kept or none. */
export function PhotoButton({ job, startedAt, big = false }: { job: string; startedAt: string; big?: boolean }) {
  const add = useMutation({
    mutationFn: (photos: readonly File[]) => {
      const form = new FormData();
      for (const photo of photos) form.append('photos', photo);
      return bring(`/api/jobs/${job}/fittings/${startedAt}/photos`, form);
    },
    onSettled: () => Promise.all(['job', 'log'].map((key) => queries.invalidateQueries({ queryKey: [key, job] }))),
  });
  const says = add.isPending
    ? 'Keeping …'
    : add.error
      ? add.error.message
      : add.isSuccess
        ? `${add.variables.length === 1 ? 'Photo' : `${add.variables.length} photos`} kept. Add another`
        : big
          ? 'Add a photo'
          : 'Add photos';
  return (
    <label className={`photo-add ${big ? 'bay-btn' : 'btn sm'}`} data-failed={add.isError}>
      <Camera size={big ? 34 : 14} aria-hidden />
      <span role="status">{says}</span>
      <input
        type="file"
        accept="image/jpeg,image/png,image/webp"
        capture={big ? 'environment' : undefined}
        multiple
        className="sr-only"
        disabled={add.isPending}
        onChange={(e) => {
          const chosen = [...(e.target.files ?? [])];
          e.target.value = '';
          if (chosen.length > 0) add.mutate(chosen);
        }}
      />
    </label>
  );
}
