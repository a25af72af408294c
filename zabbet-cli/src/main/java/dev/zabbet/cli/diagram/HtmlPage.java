package dev.zabbet.cli.diagram;

import dev.zabbet.files.SchemaFile;
import dev.zabbet.internal.text.Words;
import dev.zabbet.schema.Schema;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.util.Objects;

/** Writes the page of a schema: {@code page.html} beside this class, with the picture and the schema as JSON in it. */
final class HtmlPage {
    private HtmlPage() {}

    static String of(String svg, Schema schema) {
        int references =
                schema.tables().stream().mapToInt(t -> t.references().size()).sum();
        String counts = Words.count(schema.tables().size(), "table") + ", " + Words.count(references, "reference");
        StringBuilder page = new StringBuilder();
        String rest = template();
        rest = fill(page, rest, "{{counts}}", counts); // the title
        rest = fill(page, rest, "{{counts}}", counts); // the heading
        rest = fill(page, rest, "{{picture}}", svg);
        rest = fill(page, rest, "{{schema}}", json(schema));
        return page.append(rest).toString();
    }

    /** Appends the template up to the place, and the text; returns what follows the place. */
    private static String fill(StringBuilder page, String template, String place, String text) {
        int at = template.indexOf(place);
        page.append(template, 0, at).append(text);
        return template.substring(at + place.length());
    }

    /** On one line, and without a character that could end the script element (HTML standard, section 4.12.1.3). */
    private static String json(Schema schema) {
        return SchemaFile.toJson(schema).replaceAll("\\R\\s*", "").replace("<", "\\u003c");
    }

    private static String template() {
        try (InputStream in = HtmlPage.class.getResourceAsStream("page.html")) {
            return new String(Objects.requireNonNull(in, "page.html").readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
