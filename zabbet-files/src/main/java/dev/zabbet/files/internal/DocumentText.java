package dev.zabbet.files.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.internal.DocumentNode.Field;
import dev.zabbet.files.internal.DocumentNode.Fields;
import dev.zabbet.files.internal.DocumentNode.Items;
import dev.zabbet.files.internal.DocumentNode.Scalar;
import dev.zabbet.files.internal.DocumentNode.Spot;
import dev.zabbet.internal.text.Words;
import dev.zabbet.seed.Seed;
import dev.zabbet.seed.SourceLocation;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.Iterator;
import java.util.List;
import java.util.Map;
import org.snakeyaml.engine.v2.api.LoadSettings;
import org.snakeyaml.engine.v2.events.AliasEvent;
import org.snakeyaml.engine.v2.events.Event;
import org.snakeyaml.engine.v2.events.MappingStartEvent;
import org.snakeyaml.engine.v2.events.NodeEvent;
import org.snakeyaml.engine.v2.events.ScalarEvent;
import org.snakeyaml.engine.v2.events.SequenceStartEvent;
import org.snakeyaml.engine.v2.exceptions.Mark;
import org.snakeyaml.engine.v2.exceptions.MarkedYamlEngineException;
import org.snakeyaml.engine.v2.exceptions.YamlEngineException;
import org.snakeyaml.engine.v2.parser.ParserImpl;
import org.snakeyaml.engine.v2.scanner.StreamReader;

/**
 * The text of a document in YAML 1.2 or JSON, which is a part of it. Nothing is ever made of a type that a file names: tags
 * and aliases are refused, so is what is nested too deep, and a name that stands twice.
 */
final class DocumentText {
    private static final int DEEPEST = 40;
    private static final int LONG_LINE = 1_000;

    private final String name;
    private final String[] lines;
    private final Iterator<Event> events;
    private final IdentityHashMap<DocumentNode, End> ends = new IdentityHashMap<>();

    private DocumentText(String name, String text) {
        this.name = name;
        this.lines = text.split("\r?\n|\r", -1);
        LoadSettings settings = LoadSettings.builder()
                .setLabel(name)
                .setCodePointLimit((int) Seed.MOST_BYTES)
                .setBufferSize(text.length() + 1) // at once: piece by piece it copies what a long text has had so far
                .build();
        this.events = new ParserImpl(settings, new StreamReader(settings, text));
    }

    /** Where a part of the document ends: behind its last character; and whether it is a list or fields in brackets. */
    record End(Spot spot, boolean bracketed) {}

    /** Returns where a part of the document ends. */
    End end(DocumentNode node) {
        End end = ends.get(node);
        if (end == null) {
            throw new IllegalArgumentException("no part of this document");
        }
        return end;
    }

    /** A document that was read, and the way to tell places in it. */
    record Parsed(DocumentNode root, DocumentText text) {}

    /**
     * Reads a document; an empty one has no fields.
     *
     * @throws ZabbetException if it cannot be read, with file, line and column, and the line
     */
    static Parsed parse(String name, String text) {
        String content = text.startsWith("\uFEFF") ? text.substring(1) : text;
        ControlCharacters.refuse(name, content);
        DocumentText document = new DocumentText(name, content);
        try {
            return new Parsed(document.document(), document);
        } catch (MarkedYamlEngineException e) {
            Spot spot = e.getProblemMark().map(DocumentText::spot).orElse(new Spot(1, 1));
            throw document.wrong(spot, "this is no YAML or JSON: " + Words.cut(String.valueOf(e.getProblem()), 300));
        } catch (YamlEngineException e) {
            throw new ZabbetException(
                    name + " cannot be read: "
                            + Words.cut(String.valueOf(e.getMessage()), 300)
                                    .replaceAll("(?:\\w+\\.)+[A-Z]\\w*(?:Exception)?:? ?", "")
                            + ".",
                    e);
        }
    }

    private DocumentNode document() {
        events.next(); // the stream begins
        Event first = events.next();
        if (first.getEventId() == Event.ID.StreamEnd) {
            return new Fields(List.of(), new Spot(1, 1));
        }
        DocumentNode root = node(events.next(), 0);
        events.next(); // the document ends
        Event next = events.next();
        if (next.getEventId() != Event.ID.StreamEnd) {
            throw wrong(spot(next), "a second document begins here (---); a file holds one");
        }
        return root instanceof Scalar scalar && scalar.isNull() ? new Fields(List.of(), root.spot()) : root;
    }

    private DocumentNode node(Event event, int depth) {
        Spot spot = spot(event);
        if (depth > DEEPEST) {
            throw wrong(spot, "this is nested deeper than " + DEEPEST + " levels");
        }
        if (event instanceof AliasEvent) {
            throw wrong(spot, "aliases (*) are not read; put what several rows share under defaults");
        }
        if (event instanceof NodeEvent node && node.getAnchor().isPresent()) {
            throw wrong(spot, "anchors (&) are not read; put what several rows share under defaults");
        }
        if (event instanceof ScalarEvent scalar) {
            requireNoTag(spot, scalar.getTag().orElse("!"));
            return ended(new Scalar(scalar.getValue(), scalar.isPlain(), spot), event, false);
        }
        if (event instanceof SequenceStartEvent sequence) {
            requireNoTag(spot, sequence.getTag().orElse("!"));
            List<DocumentNode> items = new ArrayList<>();
            Event next = events.next();
            for (; next.getEventId() != Event.ID.SequenceEnd; next = events.next()) {
                items.add(node(next, depth + 1));
            }
            return ended(new Items(items, spot), next, sequence.isFlow());
        }
        return fields((MappingStartEvent) event, spot, depth);
    }

    private Fields fields(MappingStartEvent event, Spot spot, int depth) {
        requireNoTag(spot, event.getTag().orElse("!"));
        List<Field> fields = new ArrayList<>();
        Map<String, Spot> seen = new HashMap<>();
        Event next = events.next();
        for (; next.getEventId() != Event.ID.MappingEnd; next = events.next()) {
            DocumentNode key = node(next, depth + 1);
            if (!(key instanceof Scalar keyName)) {
                throw wrong(key.spot(), "a name is needed here, and this is a list or has fields itself");
            }
            Spot before = seen.put(keyName.text(), keyName.spot());
            if (before != null) {
                throw wrong(
                        keyName.spot(), "'" + keyName.text() + "' stands here twice, first in line " + before.line());
            }
            fields.add(new Field(keyName, node(events.next(), depth + 1)));
        }
        return ended(new Fields(fields, spot), next, event.isFlow());
    }

    private <N extends DocumentNode> N ended(N node, Event last, boolean bracketed) {
        Spot end = last.getEndMark().map(DocumentText::spot).orElse(node.spot());
        if (!bracketed && node instanceof Items items && !items.items().isEmpty()) {
            end = end(items.items().get(items.items().size() - 1)).spot();
        }
        if (!bracketed && node instanceof Fields fields && !fields.fields().isEmpty()) {
            end = end(fields.fields().get(fields.fields().size() - 1).value()).spot();
        }
        ends.put(node, new End(end, bracketed));
        return node;
    }

    private void requireNoTag(Spot spot, String tag) {
        if (!tag.equals("!")) {
            throw wrong(spot, "types (" + tag + ") are not read; the column says the type");
        }
    }

    private static Spot spot(Event event) {
        return event.getStartMark().map(DocumentText::spot).orElse(new Spot(1, 1));
    }

    private static Spot spot(Mark mark) {
        return new Spot(mark.getLine() + 1, mark.getColumn() + 1);
    }

    SourceLocation place(Spot spot) {
        String line = spot.line() <= lines.length ? lines[spot.line() - 1] : "";
        String shown = line.length() <= LONG_LINE
                ? line.strip()
                : line.substring(0, LONG_LINE).strip() + " …";
        return new SourceLocation(
                name + ", line " + spot.line() + ", column " + spot.column(),
                Words.cut(shown, 160).replace('\t', ' '));
    }

    ZabbetException wrong(Spot spot, String what) {
        SourceLocation place = place(spot);
        return new ZabbetException(
                place.where() + ": " + what + "." + (place.line().isEmpty() ? "" : "\n  | " + place.line()));
    }
}
