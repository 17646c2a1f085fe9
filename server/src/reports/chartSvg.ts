import { compareOption, type CompareView } from '@prandel/presentation';
import * as echarts from 'echarts';

/** The comparison chart as an SVG document, drawn without a browser. */
export function chartSvg(view: CompareView): string {
  const { option, geometry } = compareOption(view);
  const chart = echarts.init(null, null, {
    renderer: 'svg',
    ssr: true,
    width: geometry.width,
    height: geometry.height,
  });
  try {
    chart.setOption(option);
    return chart.renderToSVGString().replace(/^<svg width="[\d.]+" height="[\d.]+"/, '<svg width="100%"');
  } finally {
    chart.dispose();
  }
}
