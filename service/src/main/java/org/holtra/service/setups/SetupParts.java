package org.holtra.service.setups;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.UnaryOperator;
import org.holtra.core.setup.Lane;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.SharedConnection;
import org.holtra.core.setup.document.SetupEdit;
import org.springframework.stereotype.Component;

/** The parts of the setup one by one: looked at, drafted, changed and removed, each change a revision of the whole. */
@Component
public class SetupParts {

    /** The types of parts there are. */
    public static final List<String> THINGS =
            List.of("models", "lookups", "connections", "inlets", "outlets", "lanes", "lookouts");

    /**
     * @param content its fields; null if there is no such part
     * @param text as it is written; null likewise
     * @param mark changes whenever its text does; empty if there is no such part
     */
    public record Part(String thing, String name, Map<String, Object> content, String text, String mark) {}

    /** Something that could not be without the part. */
    public record Dependent(String thing, String name) {}

    /**
     * How a change is made.
     *
     * @param basedOn the mark of the part that it was made from; null to not care
     * @param waiting what becomes of deliveries of a lane that goes, or goes elsewhere
     */
    public record Change(String by, String note, String basedOn, Setups.Waiting waiting) {}

    private final Setups setups;
    private final DraftMapper drafts;
    private final InstantSource clock;

    SetupParts(Setups setups, DraftMapper drafts, InstantSource clock) {
        this.setups = setups;
        this.drafts = drafts;
        this.clock = clock;
    }

    /** The active setup as it is written, read once for each revision: pages ask for its parts every few seconds. */
    private record Written(int revision, SetupEdit edit) {}

    private volatile Written written = new Written(0, new SetupEdit(""));

    private Written written() {
        int revision = setups.current().revision();
        Written known = written;
        if (known.revision != revision) {
            known = new Written(
                    revision,
                    new SetupEdit(
                            setups.revision(revision).map(SetupRevision::yaml).orElse("")));
            written = known;
        }
        return known;
    }

    public Part part(String thing, String name) {
        return part(written().edit, thing, name);
    }

    private static Part part(SetupEdit edit, String thing, String name) {
        Optional<String> text = edit.text(thing, name);
        return new Part(
                thing,
                name,
                edit.content(thing, name).orElse(null),
                text.orElse(null),
                text.map(SetupParts::mark).orElse(""));
    }

    private static String mark(String text) {
        try {
            byte[] hash = MessageDigest.getInstance("SHA-256").digest(text.getBytes(StandardCharsets.UTF_8));
            return HexFormat.of().formatHex(hash, 0, 8);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }

    /** The setup's text with another content for a part. Changes nothing. */
    public String with(String thing, String name, Map<String, Object> content) {
        return written().edit.with(thing, name, content);
    }

    /** Applies a part. */
    public Setup adopt(String thing, String name, Map<String, Object> content, Change change) throws SetupRefused {
        return adopted(thing, name, change, edit -> edit.with(thing, name, content));
    }

    /** Takes a part away. */
    public Setup remove(String thing, String name, Change change) throws SetupRefused {
        return adopted(thing, name, change, edit -> edit.without(thing, name));
    }

    /** Changes several parts in one revision, whatever becomes of the drafts of them. */
    public Setup together(UnaryOperator<SetupEdit> edit, Change change) throws SetupRefused {
        return adopted(change, text -> edit.apply(text).yaml());
    }

    /** The names of the parts there are of a type. */
    public List<String> names(String thing) {
        return written().edit.names(thing);
    }

    private interface Edit {
        String of(SetupEdit edit) throws SetupRefused;
    }

    private Setup adopted(String thing, String name, Change change, Edit edit) throws SetupRefused {
        Setup adopted = adopted(change, text -> {
            if (change.basedOn != null
                    && !change.basedOn.equals(part(text, thing, name).mark())) {
                throw new SetupRefused(
                        SetupRefused.Why.OVERTAKEN,
                        "`" + name + "` was changed by somebody else meanwhile; look at the difference first",
                        List.of());
            }
            return edit.of(text);
        });
        drafts.remove(thing, name, change.by);
        return adopted;
    }

    /** Other parts may be changed at the same time; then this change is put into what they made. */
    private Setup adopted(Change change, Edit edit) throws SetupRefused {
        while (true) {
            Written now = written();
            String text = edit.of(now.edit);
            try {
                return setups.adopt(text, change.by, change.note, now.revision, change.waiting);
            } catch (SetupRefused e) {
                if (e.why() != SetupRefused.Why.OVERTAKEN) {
                    throw e;
                }
            }
        }
    }

    public Draft save(String thing, String name, String by, String content, String basedOn) {
        Draft draft = new Draft(thing, name, by, content, basedOn, clock.instant());
        drafts.save(draft);
        return draft;
    }

    public boolean discard(String thing, String name, String by) {
        return drafts.remove(thing, name, by) > 0;
    }

    public List<Draft> drafts(String thing, String name) {
        return drafts.of(thing, name);
    }

    /** All drafts, without their content. */
    public List<Draft> drafts() {
        return drafts.all();
    }

    /** What could not be without a part. */
    public List<Dependent> dependents(String thing, String name) {
        Setup setup = setups.current();
        List<Dependent> found = new ArrayList<>();
        for (Lane lane : setup.lanes().values()) {
            boolean needs = switch (thing) {
                case "inlets" -> lane.inlets().contains(name);
                case "outlets" -> lane.outlet().equals(name);
                case "lookups" ->
                    written()
                            .edit
                            .text("lanes", lane.name())
                            .orElse("")
                            .matches("(?s).*lookup\\(\\s*['\"]" + name + "['\"].*");
                default -> false;
            };
            if (needs) {
                found.add(new Dependent("lanes", lane.name()));
            }
        }
        if (thing.equals("connections")) {
            setup.inlets().values().stream()
                    .filter(inlet -> isNamed(inlet.connection(), name))
                    .forEach(inlet -> found.add(new Dependent("inlets", inlet.name())));
            setup.outlets().values().stream()
                    .filter(outlet -> isNamed(outlet.connection(), name))
                    .forEach(outlet -> found.add(new Dependent("outlets", outlet.name())));
        }
        if (thing.equals("inlets")) {
            setup.lookouts().values().stream()
                    .filter(lookout -> lookout.selection().inlets().contains(name))
                    .forEach(lookout -> found.add(new Dependent("lookouts", lookout.name())));
        }
        return found;
    }

    private static boolean isNamed(SharedConnection connection, String name) {
        return connection != null && connection.name().equals(name);
    }
}
