package dev.zabbet.examples;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import java.util.regex.MatchResult;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** The house as ARCHITECTURE.md describes it, against the code. */
class RoomsTest {
    private static final Path ROOT = Path.of(System.getProperty("zabbet.repository.root"));
    private static final Pattern OWN = Pattern.compile("(?m)^package ([\\w.]+);");
    private static final Pattern ROW = Pattern.compile("(?m)^\\| (`dev\\.zabbet[^|]*) \\|");
    private static final Pattern PACKAGE = Pattern.compile("dev\\.zabbet(?:\\.[a-z0-9]+)*");
    private static final Pattern USED = Pattern.compile("(dev\\.zabbet(?:\\.[a-z0-9]+)*)\\.[A-Z]\\w*");
    private static final Pattern COMMENT = Pattern.compile("/\\*.*?\\*/|//[^\\n]*", Pattern.DOTALL);
    private static final int LONGEST_FILE = 450;
    private static final int LONGEST_MEDIAN = 110;

    @Test
    void importsRunOneWayAsTheTableSays() throws IOException {
        Map<String, Integer> floors = floors();
        Map<String, TreeSet<String>> used = used();
        TreeSet<String> wrong = new TreeSet<>();
        used.forEach((name, others) -> others.stream()
                .filter(other ->
                        floors.containsKey(name) && floors.getOrDefault(other, Integer.MAX_VALUE) > floors.get(name))
                .forEach(other -> wrong.add(name + " uses " + other)));
        assertEquals("", String.join("\n", wrong));
        assertEquals(
                new TreeSet<>(floors.keySet()),
                new TreeSet<>(used.keySet()),
                "the packages of ARCHITECTURE.md and those of the code");
    }

    @Test
    void theTableNamesWhatEachPackageUses() throws IOException {
        Map<String, TreeSet<String>> used = used();
        List<String> wrong = new ArrayList<>();
        List<List<String>> modules = new ArrayList<>();
        Map<List<String>, TreeSet<String>> named = new LinkedHashMap<>();
        for (String line : Files.readAllLines(ROOT.resolve("ARCHITECTURE.md"))) {
            String[] cells = line.split("\\|", -1);
            if (line.startsWith("| **")) {
                modules.add(new ArrayList<>());
            } else if (line.startsWith("| `dev.zabbet") && cells.length > 4) {
                List<String> packages = names(cells[1]);
                modules.get(modules.size() - 1).addAll(packages);
                named.put(
                        packages,
                        new TreeSet<>(List.of(cells[3].replace("`", "").strip().split(" "))));
            }
        }
        named.forEach((packages, said) -> {
            List<String> module = modules.stream()
                    .filter(all -> all.containsAll(packages))
                    .findFirst()
                    .orElseThrow();
            TreeSet<String> found = new TreeSet<>();
            packages.forEach(name -> found.addAll(used.getOrDefault(name, new TreeSet<>())));
            found.retainAll(module);
            found.removeAll(packages);
            TreeSet<String> brief = new TreeSet<>();
            found.forEach(name -> brief.add(name.replaceFirst("^dev\\.zabbet\\.((jdbc|spring)\\.internal\\.)?", "")));
            said.remove("");
            if (!said.equals(brief)) {
                wrong.add(packages + " uses " + brief + "; the table says " + said);
            }
        });
        assertEquals("", String.join("\n", wrong));
        assertTrue(named.size() > 40, named.size() + " rows");
    }

    /** The packages of Zabbet that each one names in its code; comments do not count. */
    private static Map<String, TreeSet<String>> used() throws IOException {
        Map<String, TreeSet<String>> used = new LinkedHashMap<>();
        for (Path file : sources()) {
            String text = Files.readString(file);
            Matcher own = OWN.matcher(text);
            if (own.find()) {
                TreeSet<String> others = used.computeIfAbsent(own.group(1), name -> new TreeSet<>());
                Matcher other = USED.matcher(COMMENT.matcher(text).replaceAll(""));
                while (other.find()) {
                    others.add(other.group(1));
                }
            }
        }
        return used;
    }

    private static List<String> names(String cell) {
        return PACKAGE.matcher(cell).results().map(MatchResult::group).toList();
    }

    @Test
    void aFileHoldsOneIdea() throws IOException {
        List<Integer> lengths = new ArrayList<>();
        TreeSet<String> tooLong = new TreeSet<>();
        for (Path file : sources()) {
            int lines = Files.readAllLines(file).size();
            lengths.add(lines);
            if (lines > LONGEST_FILE) {
                tooLong.add(file.getFileName() + ": " + lines);
            }
        }
        assertEquals("", String.join("\n", tooLong), "files of more than " + LONGEST_FILE + " lines");
        lengths.sort(null);
        int median = lengths.get(lengths.size() / 2);
        assertTrue(median < LONGEST_MEDIAN, "the median is " + median);
    }

    /** The row of the table that each package stands in. */
    private static Map<String, Integer> floors() throws IOException {
        Map<String, Integer> floors = new LinkedHashMap<>();
        Matcher row = ROW.matcher(Files.readString(ROOT.resolve("ARCHITECTURE.md")));
        for (int floor = 0; row.find(); floor++) {
            Matcher name = PACKAGE.matcher(row.group(1));
            while (name.find()) {
                floors.put(name.group(), floor);
            }
        }
        return floors;
    }

    private static List<Path> sources() throws IOException {
        try (Stream<Path> modules = Files.list(ROOT)) {
            List<Path> files = new ArrayList<>();
            for (Path module : modules.filter(
                            path -> path.getFileName().toString().startsWith("zabbet-"))
                    .toList()) {
                Path sources = module.resolve("src/main/java");
                if (Files.isDirectory(sources)) {
                    try (Stream<Path> all = Files.walk(sources)) {
                        all.filter(path -> path.toString().endsWith(".java")).forEach(files::add);
                    }
                }
            }
            return files;
        }
    }
}
