import { stripHeadSvg, type StripScale } from '@prandel/presentation';

/** The numbers of the scale over a column of strips. */
export function StripHead({ scale }: { scale: StripScale }) {
  return (
    <th style={{ width: scale.width }}>
      <span className="[&_svg]:overflow-visible" dangerouslySetInnerHTML={{ __html: stripHeadSvg(scale, 11) }} />
    </th>
  );
}
