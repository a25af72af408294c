package dev.zabbet.files.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.files.internal.DocumentNode.Field;
import dev.zabbet.files.internal.DocumentNode.Fields;
import dev.zabbet.files.internal.DocumentNode.Items;
import dev.zabbet.internal.text.Nearest;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** Reads rules for masking. */
public final class RulesReader {
    private static final List<String> LISTS = List.of("keep", "mask", "without");
    private static final String DOMAINS = "keepDomains";
    private static final String REF = "ref";
    private static final List<String> WORDS = List.of("keep", "mask", "without", REF, DOMAINS);

    private final Map<String, List<String>> lists = new LinkedHashMap<>();
    private final Map<String, String> refs = new LinkedHashMap<>();
    private boolean keepDomains;

    private RulesReader() {}

    public static RulesReader read(String name, String content) {
        DocumentText.Parsed parsed = DocumentText.parse(name, content);
        RulesReader reader = new RulesReader();
        if (!(parsed.root() instanceof Fields fields)) {
            throw wrong(
                    parsed, parsed.root(), "rules are written as keep, mask and without, each with a list of columns.");
        }
        for (Field field : fields.fields()) {
            String word = field.name().text();
            if (word.equals(DOMAINS) && List.of("true", "false").contains(DocumentReader.scalar(field.value()))) {
                reader.keepDomains = DocumentReader.scalar(field.value()).equals("true");
            } else if (LISTS.contains(word) && field.value() instanceof Items items) {
                reader.lists.put(
                        word, items.items().stream().map(DocumentReader::scalar).toList());
            } else if (word.equals(REF) && field.value() instanceof Fields places) {
                places.fields()
                        .forEach(place -> reader.refs.put(place.name().text(), DocumentReader.scalar(place.value())));
            } else if (word.equals(REF)) {
                throw wrong(
                        parsed,
                        field.value(),
                        "ref says which table's keys stand at places in documents: {hut.amenities.wardenId: warden}.");
            } else if (LISTS.contains(word)) {
                throw wrong(parsed, field.value(), word + " takes a list of columns: [guest.email, \"*.city\"].");
            } else if (word.equals(DOMAINS)) {
                throw wrong(parsed, field.value(), DOMAINS + " is true or false.");
            } else {
                String near = Nearest.to(word, WORDS)
                        .map(n -> " Did you mean '" + n + "'?")
                        .orElse("");
                throw wrong(
                        parsed,
                        field.name(),
                        "'" + word + "' is no rule." + near + " Known: keep, mask, without, ref, keepDomains.");
            }
        }
        return reader;
    }

    private static ZabbetException wrong(DocumentText.Parsed parsed, DocumentNode node, String what) {
        return new ZabbetException(parsed.text().place(node.spot()).where() + ": " + what);
    }

    public Map<String, List<String>> lists() {
        return lists;
    }

    public Map<String, String> refs() {
        return refs;
    }

    public boolean keepDomains() {
        return keepDomains;
    }
}
