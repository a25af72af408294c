package dev.zabbet.internal.document;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.internal.value.JsonTextDifference;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;

/** Edits of long documents, of which only a part is read. */
class DocumentEditTest {

    @Test
    void thePartThatDiffersGivesTheSameEditsAsTheWhole() {
        int parts = 0;
        for (long variation = 1; variation <= 400; variation++) {
            Random random = new Random(variation);
            Object document = document(random, 5);
            Object edited = document;
            for (int i = 0; i <= random.nextInt(2); i++) {
                edited = edited(edited, random);
            }
            String before = PlainDocument.write(document);
            String after = PlainDocument.write(edited);
            List<DocumentEdit> whole = DocumentEdit.between(document, edited);
            long shown = variation;
            assertEquals(
                    whole,
                    DocumentEdit.betweenTexts(before, after).orElseThrow(),
                    () -> "variation " + shown + "\n" + before + "\n" + after);
            parts += JsonTextDifference.of(before, after).isPresent() ? 1 : 0;
        }
        int found = parts;
        assertTrue(parts > 100, () -> "only " + found + " were read in part");
    }

    /** What is read does not grow with the document. */
    @Test
    void ofAMegabyteThatDiffersInOneFieldOneValueIsRead() {
        StringBuilder items = new StringBuilder();
        for (int i = 0; items.length() < 1_000_000; i++) {
            items.append(i == 0 ? "" : ", ")
                    .append("{\"id\": ")
                    .append(i)
                    .append(", \"name\": \"Hut \\\"")
                    .append(i)
                    .append("\\\" \\\\\", \"tags\": [\"quiet\", [], {}]}");
        }
        String before = "{\"items\": [" + items + "], \"status\": \"OPEN\"}";
        for (String after :
                List.of(before.replace("OPEN", "SHUT"), before.replace("\"Hut \\\"777\\\"", "\"Hut \\\"x\\\""))) {
            JsonTextDifference part = JsonTextDifference.of(before, after).orElseThrow();
            assertTrue(part.before().length() < 40, part.before());
            assertEquals(
                    1, DocumentEdit.betweenTexts(before, after).orElseThrow().size());
        }
        assertEquals(
                ".items[777].name",
                DocumentEdit.betweenTexts(before, before.replace("\"Hut \\\"777\\\"", "\"Hut \\\"x\\\""))
                        .orElseThrow()
                        .get(0)
                        .path()
                        .toString());
    }

    private static @Nullable Object document(Random random, int depth) {
        switch (depth == 0 ? random.nextInt(4) : 4 + random.nextInt(2)) {
            case 0:
                return BigDecimal.valueOf(random.nextInt(40));
            case 1:
                return random.nextBoolean() ? null : (Object) random.nextBoolean();
            case 2:
                return "t\"x\\{[" + random.nextInt(9);
            case 3:
                return random.nextBoolean() ? List.of() : Map.of();
            case 4:
                List<@Nullable Object> list = new ArrayList<>();
                for (int i = 0; i < 3 + random.nextInt(8); i++) {
                    list.add(document(random, depth - 1));
                }
                return list;
            default:
                Map<String, @Nullable Object> map = new LinkedHashMap<>();
                for (int i = 0; i < 3 + random.nextInt(8); i++) {
                    map.put(
                            "n" + random.nextInt(30) + (random.nextInt(5) == 0 ? "\"," : ""),
                            document(random, depth - 1));
                }
                return map;
        }
    }

    private static @Nullable Object edited(@Nullable Object value, Random random) {
        if (value instanceof List<?> list && !list.isEmpty()) {
            List<@Nullable Object> copy = new ArrayList<>(list);
            int at = random.nextInt(copy.size());
            switch (random.nextInt(5)) {
                case 0 -> copy.remove(at);
                case 1 -> copy.add(at, document(random, random.nextInt(2)));
                default -> copy.set(at, edited(copy.get(at), random));
            }
            return copy;
        }
        if (value instanceof Map<?, ?> map && !map.isEmpty()) {
            Map<String, @Nullable Object> copy = new LinkedHashMap<>();
            map.forEach((name, part) -> copy.put((String) name, part));
            String name = new ArrayList<>(copy.keySet()).get(random.nextInt(copy.size()));
            switch (random.nextInt(5)) {
                case 0 -> copy.remove(name);
                case 1 -> copy.put(name + "x", document(random, random.nextInt(2)));
                default -> copy.put(name, edited(copy.get(name), random));
            }
            return copy;
        }
        return random.nextBoolean() ? document(random, 0) : document(random, 1);
    }
}
