/** Offer is a suggestion as a list shows it before it is set. */
export interface Offer {
  key: string;
  name: string;
  target: string;
  evidence: string;
  confidence: number;
  /** what of the chart speaks against it; such a one is not set unless it is ticked */
  doubt?: string;
}

/** choosable are the offers at or above a confidence: the least certain first, doubted ones last. */
export function choosable(offers: Offer[], above: number): Offer[] {
  return offers.filter((o) => o.confidence >= above).sort((a, b) => Number(!!a.doubt) - Number(!!b.doubt) || a.confidence - b.confidence);
}
