/** The names of what is seen, over the drawing: of the nearest first, none over another, none of what is hidden. */
import { useFrame, useThree } from "@react-three/fiber";
import { useRef, type RefObject } from "react";
import { Raycaster, Vector2, Vector3, type Mesh } from "three";

const ROOM_PX = 3;

interface Props {
  bodies: RefObject<Map<string, Mesh>>;
  /** The labels, by what they are of; the element that holds them is as large as the drawing. */
  labels: RefObject<HTMLDivElement | null>;
  /** Named before all else. */
  first: string[];
}

export function PlaceNames({ bodies, labels, first }: Props) {
  const { camera, size } = useThree();
  const ray = useRef(new Raycaster());
  useFrame(() => {
    camera.updateMatrixWorld(); // it may have been turned since the last drawing
    const meshes = [...bodies.current.values()];
    const placed: DOMRect[] = [];
    const found = [...(labels.current?.children ?? [])].flatMap((label) => {
      const place = (label as HTMLElement).dataset.key ?? "";
      const mesh = bodies.current.get(place);
      if (!mesh) return [];
      const at = mesh.getWorldPosition(new Vector3()).project(camera);
      return [{ label: label as HTMLElement, place, mesh, at }];
    });
    const rank = (place: string) => (first.includes(place) ? 0 : 1);
    found.sort((a, b) => rank(a.place) - rank(b.place) || a.at.z - b.at.z);
    for (const { label, place, mesh, at } of found) {
      ray.current.setFromCamera(new Vector2(at.x, at.y), camera);
      const [hit] = ray.current.intersectObjects(meshes, false);
      const [x, y] = [((at.x + 1) / 2) * size.width, ((1 - at.y) / 2) * size.height];
      const [wide, high] = [label.offsetWidth, label.offsetHeight];
      const box = new DOMRect(x - wide / 2 - ROOM_PX, y - high / 2, wide + 2 * ROOM_PX, high);
      const over = placed.some(
        (p) => box.left < p.right && p.left < box.right && box.top < p.bottom && p.top < box.bottom,
      );
      const shown = (hit?.object === mesh || first.includes(place)) && !over;
      label.classList.toggle("hidden", !shown);
      label.style.translate = `${x - wide / 2}px ${y - high / 2}px`;
      if (shown) placed.push(box);
    }
  });
  return null;
}
