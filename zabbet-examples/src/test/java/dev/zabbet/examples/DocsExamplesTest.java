package dev.zabbet.examples;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import javax.tools.JavaFileObject;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.platform.testkit.engine.Events;

/**
 * Compiles every example of the documentation with the imports that its page shows: the Java blocks of the pages, and those
 * of each package's page. What is a whole test among them is run.
 */
class DocsExamplesTest {
    private static final Path ROOT = Path.of(System.getProperty("zabbet.repository.root"));
    private static final Pattern MARKDOWN = Pattern.compile("```java\n(.*?)```", Pattern.DOTALL);
    private static final Pattern JAVADOC = Pattern.compile("<pre>\\{@code\n(.*?)\n \\* }</pre>", Pattern.DOTALL);
    private static final String ONE_AFTER_ANOTHER = "<!-- The examples of this page follow one another. -->";
    /** The application's own package: a test beside it needs no imports for these. */
    private static final String APPLICATION = """
            import static dev.zabbet.examples.huts.Status.*;
            import dev.zabbet.examples.huts.*;
            import dev.zabbet.examples.story.*;
            """;

    private static final Pattern ONLY_IMPORTS = Pattern.compile("```java\n((?:import .*;\n|\n)+)```");
    private static final String AROUND = """
            class %s {
                dev.zabbet.Stage stage; Stay stay; Hut hut; Guest guest; StayDesk desk; dev.zabbet.Footprint footprint;
                Teller teller; StayRepository stays; GuestRepository guests; LedgerRepository ledger;
                javax.sql.DataSource dataSource; long hutId; int roomNumber; long guestId; java.math.BigDecimal price;
                void example() throws Throwable {
            %s
                }
            }
            """;

    @Test
    void everyExampleCompilesAndEveryTestAmongThemHolds(@TempDir Path classes) throws IOException {
        List<JavaFileObject> sources = new ArrayList<>();
        collect("**.md", MARKDOWN, sources);
        collect("**/src/main/java/**/package-info.java", JAVADOC, sources);
        assertTrue(sources.size() >= 12, "only " + sources.size() + " examples were found");

        Events events = CompiledExamples.run(classes, sources);
        assertEquals(
                List.of(), events.failed().stream().map(Object::toString).toList(), "the tests of the documentation");
        long passed = events.succeeded().stream()
                .filter(e -> e.getTestDescriptor().isTest())
                .count();
        assertTrue(passed >= 6, events.succeeded().list()::toString);
    }

    private static void collect(String glob, Pattern pattern, List<JavaFileObject> sources) throws IOException {
        var matcher = ROOT.getFileSystem().getPathMatcher("glob:" + ROOT + "/" + glob);
        try (Stream<Path> files = Files.walk(ROOT)) {
            for (Path file : files.filter(f -> matcher.matches(f)
                            && !f.toString().contains("/target/")
                            && !f.toString().contains("/node_modules/"))
                    .toList()) {
                if (file.toString().contains("/cli/")
                        || file.endsWith("first-hour.md") // FirstHourTest follows it step by step
                        || ROOT.relativize(file).toString().contains("spring")) {
                    continue; // the command's package is closed; its example is its own test, as are those with Spring
                }
                String page = Files.readString(file);
                Matcher shared = ONLY_IMPORTS.matcher(page);
                String imports = shared.find() ? shared.group(1) : "";
                Matcher found = pattern.matcher(page);
                StringBuilder together = new StringBuilder();
                while (found.find()) {
                    String code = found.group(1).replaceAll("(?m)^ \\* ?", "");
                    if (code.equals(imports)) {
                        continue;
                    }
                    if (page.contains(ONE_AFTER_ANOTHER)) {
                        together.append(code);
                    } else {
                        sources.add(source(imports, code, sources.size(), ROOT.relativize(file)));
                    }
                }
                if (together.length() > 0) {
                    sources.add(source(imports, together.toString(), sources.size(), ROOT.relativize(file)));
                }
            }
        }
    }

    private static JavaFileObject source(String pageImports, String code, int number, Path file) {
        String name = "Example" + number;
        boolean whole = Pattern.compile("(?m)^(@(Staged|EveryStage).*\n)?(public )?(final )?class \\w+")
                .matcher(code)
                .find();
        String own = code.replaceAll("(?m)^import .*\n", "");
        String imports = code.lines().filter(l -> l.startsWith("import ")).reduce("", (a, b) -> a + b + "\n");
        String text = "package example" + number + ";\n" + APPLICATION + (imports.isEmpty() ? pageImports : imports)
                + (whole ? own : AROUND.formatted(name, own));
        return CompiledExamples.source(file + "/" + name + ".java", text);
    }
}
