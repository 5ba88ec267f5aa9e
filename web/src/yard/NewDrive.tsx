import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import { api, ok, say, type Schemas } from "../app/client";
import { newId } from "../app/ids";
import { useHere } from "../app/place";
import { Dialog } from "../ui/Dialog";

type Form = { tag: string; machine: string; where: string; family: string; current: string; alone: boolean };

/** A new drive in a few words; everything else can come later. */
export function NewDrive({ open, close, like }: { open: boolean; close: () => void; like?: Schemas["YardRow"] }) {
  return (
    <Dialog open={open} close={close} title={like ? `A drive like ${like.tag}` : "New drive"}>
      <Fields close={close} like={like} />
    </Dialog>
  );
}

function Fields({ close, like }: { close: () => void; like?: Schemas["YardRow"] }) {
  const { place } = useHere();
  const client = useQueryClient();
  const navigate = useNavigate();
  const families = useQuery({ queryKey: ["families"], queryFn: () => ok(api.GET("/api/families")) });
  const [error, setError] = useState("");
  const { register, handleSubmit, formState, watch } = useForm<Form>({
    defaultValues: { tag: "", machine: like?.machine ?? "", where: like?.where ?? "", family: "", current: "", alone: false },
  });
  const alone = watch("alone");
  const make = handleSubmit(async (f) => {
    if (!f.tag.trim()) return setError(f.alone ? "Type the circuit's name or tag." : "Type the tag on the panel.");
    const id = newId();
    const sets = [
      { path: "tag", text: f.tag },
      { path: "machine", text: f.machine },
      { path: "where", text: f.where },
      { path: "rating.dialect", text: f.alone ? "" : f.family },
      { path: "rating.current", text: f.alone ? "" : f.current },
      { path: "stop.alone", text: f.alone ? "true" : "" },
    ].filter((s) => s.text.trim());
    try {
      const v = await ok(api.POST("/api/drives", { body: { id, place: place.id, copy_from: like?.id, sets } }));
      client.setQueryData(["drive", id], v);
      await client.invalidateQueries({ queryKey: ["yard"] });
      close();
      void navigate(`/drives/${id}/${f.alone ? "stop" : "plate"}`);
    } catch (e) {
      setError(say(e));
    }
  });
  return (
    <form className="grid grid-cols-2 gap-3" onSubmit={(e) => void make(e)}>
      <label>
        <span className="lbl">Tag</span>
        <input className="cell text" autoFocus {...register("tag")} />
      </label>
      <label>
        <span className="lbl">Machine</span>
        <input className="cell text" {...register("machine")} />
      </label>
      <label className="col-span-2">
        <span className="lbl">Where</span>
        <input className="cell text" {...register("where")} />
      </label>
      {!like && (
        <label className="col-span-2 flex items-center gap-2 text-[13.5px]">
          <input type="checkbox" {...register("alone")} /> A stop circuit by itself, whatever it works: no drive
        </label>
      )}
      {!like && !alone && (
        <>
          <label>
            <span className="lbl">Drive family</span>
            <select className="cell text" {...register("family")}>
              <option value="">later</option>
              {families.data?.map((f) => (
                <option key={f.name}>{f.name}</option>
              ))}
            </select>
          </label>
          <label>
            <span className="lbl">Rated output current, A</span>
            <input className="cell" inputMode="decimal" {...register("current")} />
          </label>
        </>
      )}
      {like && (
        <p className="col-span-2 text-[13px] text-ink-2">
          Family, motor plate and what is wanted are taken over. Serials, readings, decisions and the address are not.
        </p>
      )}
      {error && (
        <p role="alert" className="col-span-2 text-stop">
          ✕ {error}
        </p>
      )}
      <button className="btn col-span-2 justify-self-start" disabled={formState.isSubmitting}>
        {alone ? "Begin with the circuit" : "Begin with the plate"}
      </button>
    </form>
  );
}
