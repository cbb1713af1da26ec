import { useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";

import type { Picture } from "../../api/client";
import { FileButton } from "../../shared/FileButton";
import { Failed } from "../../shared/states";
import { picturesQuery, useAddPicture, useRemovePicture } from "./readingQueries";

interface Properties {
  pour: string;
  /** Only those of one fault; without it those of the cast as a whole. */
  fault?: string;
}

/** Pictures of a cast or of one of its faults, and another one. */
export function Pictures({ pour, fault }: Properties) {
  const pictures = useQuery(picturesQuery(pour));
  const add = useAddPicture(pour, fault);
  const remove = useRemovePicture(pour);
  const [caption, setCaption] = useState("");
  const ours = (pictures.data ?? []).filter((one) => one.fault_id === (fault ?? null));
  const id = `caption-${fault ?? "cast"}`;
  return (
    <>
      {ours.length > 0 && (
        <ul className="pictures">
          {ours.map((one, at) => (
            <Thumb
              key={one.id}
              picture={one}
              number={at + 1}
              onRemove={() => remove.mutate(one.id)}
            />
          ))}
        </ul>
      )}
      <div className="cast-panel">
        <div className="field">
          <label htmlFor={id}>What the picture shows</label>
          <Input
            id={id}
            value={caption}
            maxLength={120}
            onChange={(event) => setCaption(event.target.value)}
          />
        </div>
        <FileButton
          accept="image/jpeg,image/png,image/webp"
          busy={add.isPending}
          onFile={(file) => add.mutate({ file, caption }, { onSuccess: () => setCaption("") })}
        >
          Add a picture
        </FileButton>
      </div>
      {(add.error ?? remove.error) && <Failed error={add.error ?? remove.error} />}
    </>
  );
}

interface ThumbProperties {
  picture: Picture;
  number: number;
  onRemove: () => void;
}

function Thumb({ picture, number, onRemove }: ThumbProperties) {
  const said = picture.caption || `Picture ${number}`;
  return (
    <li>
      <a href={`/api/v1/pictures/${picture.id}`} target="_blank" rel="noreferrer">
        <img
          src={`/api/v1/pictures/${picture.id}`}
          alt={said}
          width={picture.width}
          height={picture.height}
          loading="lazy"
        />
      </a>
      <span>{said}</span>
      <Button size="small" onClick={onRemove} aria-label={`Remove ${said}`}>
        Remove
      </Button>
    </li>
  );
}
