import { useQuery } from "@tanstack/react-query";
import { api, take, type BuildStep } from "../../api/client";
import { useDesign } from "../../design/store";
import { Drawn } from "../../drawings/Drawn";

/** The drawing of just the part that a step is about; nothing where words are all there is. */
export function StepDrawing({ step }: { step: BuildStep }) {
  const { design } = useDesign();
  const { data } = useQuery({
    queryKey: ["step-drawing", design.id, step.key, design.revision],
    queryFn: () =>
      take(
        api.GET("/api/designs/{design_id}/assembly/drawing", {
          params: { path: { design_id: design.id }, query: { step: step.key } },
        }),
      ),
    gcTime: 60_000,
  });
  if (!data?.drawing) return null;
  return (
    <div className="step-drawing">
      <Drawn drawing={data.drawing} label={`Drawing: ${step.title}`} />
    </div>
  );
}
