// Photos of one thing: taken with the camera of the phone, made smaller here before they travel.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Camera, Trash2 } from "lucide-react";
import { useRef } from "react";
import { toast } from "sonner";
import { answered, client } from "../api/client";
import { photosQuery } from "../api/plans";
import { Button } from "./Button";
import { day } from "./format";
import { usePlan } from "./plan";

const LONGEST = 1600;

// Drawn anew it is upright, small, and says nothing of where it was taken.
async function smaller(file: File): Promise<Blob> {
  const picture = await createImageBitmap(file);
  const scale = Math.min(1, LONGEST / Math.max(picture.width, picture.height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(picture.width * scale);
  canvas.height = Math.round(picture.height * scale);
  canvas.getContext("2d")?.drawImage(picture, 0, 0, canvas.width, canvas.height);
  return new Promise((done, fail) => canvas.toBlob((blob) => (blob === null ? fail(new Error("This picture cannot be read.")) : done(blob)), "image/jpeg", 0.82));
}

export function Photos({ subject, kind, name }: { subject: string; kind: "channel" | "place" | "run" | "part"; name: string }) {
  const { envelope } = usePlan();
  const cache = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const query = photosQuery(envelope.plan_id);
  const { data = [] } = useQuery(query);
  const again = () => cache.invalidateQueries({ queryKey: query.queryKey });
  const path = { plan_id: envelope.plan_id };
  const keep = useMutation({
    mutationFn: async (file: File) => {
      const body = await smaller(file).catch(() => {
        throw new Error(`${file.name} is not a picture that can be read.`);
      });
      await answered(client.POST("/api/plans/{plan_id}/photos", { params: { path, query: { subject, kind } }, body: body as never, bodySerializer: (one) => one as never, headers: { "content-type": "image/jpeg" } }));
    },
    onSuccess: again,
    onError: (error) => toast.error("Photo not kept", { description: error.message }),
  });
  const back = async (photo_id: string) => {
    await client.POST("/api/plans/{plan_id}/photos/{photo_id}/back", { params: { path: { ...path, photo_id } } });
    await again();
  };
  const remove = async (photo_id: string) => {
    await client.DELETE("/api/plans/{plan_id}/photos/{photo_id}", { params: { path: { ...path, photo_id } } });
    await again();
    toast("Photo taken away", { action: { label: "Bring it back", onClick: () => void back(photo_id) } });
  };
  const own = data.filter((one) => one.subject === subject && (one.kind === "" || one.kind === kind));
  return (
    <div>
      <h3 className="text-sm font-semibold">Photos</h3>
      <ul className="grid grid-cols-2 gap-2 py-2">
        {own.map((one, at) => {
          const address = `/api/plans/${envelope.plan_id}/photos/${one.photo_id}`;
          return (
            <li key={one.photo_id} className="relative border border-line">
              <a href={address} target="_blank" rel="noreferrer">
                <img src={address} alt={`Photo ${at + 1} of ${name}, ${day(one.made_at)}`} loading="lazy" className="aspect-4/3 w-full object-cover" />
              </a>
              <Button look="quiet" className="absolute top-0 right-0 bg-sheet" aria-label={`Take photo ${at + 1} away`} onClick={() => void remove(one.photo_id)}>
                <Trash2 size={18} />
              </Button>
            </li>
          );
        })}
      </ul>
      <Button disabled={keep.isPending} onClick={() => input.current?.click()}>
        <Camera size={18} /> {keep.isPending ? "Keeping it" : "Take a photo"}
      </Button>
      <input
        ref={input}
        type="file"
        accept="image/*"
        capture="environment"
        className="hidden"
        aria-label={`Photo of ${name}`}
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) keep.mutate(file);
          event.target.value = "";
        }}
      />
    </div>
  );
}
