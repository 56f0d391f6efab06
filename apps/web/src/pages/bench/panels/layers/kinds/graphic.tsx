import { Image } from 'lucide-react';
import type { GraphicLayer } from '@lurn/model';
import { useShot } from '../../../../../state/shot';
import { EdgeFields, Fault, FillQuad } from '../placed';
import type { LayerView } from './layer-view';

function GraphicFields({ layer }: { readonly layer: GraphicLayer }) {
  const asset = useShot((s) => s.state.document.assets.find((a) => a.hash === layer.asset));
  return (
    <>
      <p className="quiet num truncate text-xs" title={asset?.name}>
        {asset?.name}, {asset?.width} × {asset?.height} px
      </p>
      <Fault of={layer.asset} />
      <FillQuad layer={layer} />
      <EdgeFields layer={layer} />
    </>
  );
}

export const GRAPHIC_VIEW: LayerView<GraphicLayer> = {
  icon: Image,
  Fields: GraphicFields,
  begin: { text: 'File …', title: 'A graphic (PNG, JPEG, WebP, SVG, with alpha) or a clip', by: 'file' },
};
