package dev.zabbet.internal.mask;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.text.Normalizer;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;

/** What columns and tables are called that hold personal values, and what people are called, in some languages. */
final class PersonalWords {
    private static final String PERSONS = "persons";
    private static final String NAME = "name";
    private static final String OTHERWISE = "otherwise";
    private static final String THINGS = "things";
    private static final String ABOUT = "about";
    private static final String DIGESTS = "digests";
    private static final Map<String, List<Set<String>>> WORDS = read();
    private static final Set<String> GIVEN_NAMES = givenNames();

    private PersonalWords() {}

    private static Map<String, List<Set<String>>> read() {
        Map<String, List<Set<String>>> words = new LinkedHashMap<>();
        for (String line : lines("words.txt")) {
            int colon = line.indexOf(':');
            List<Set<String>> all = new ArrayList<>();
            for (String one : line.substring(colon + 1).strip().split("\\s+")) {
                all.add(Set.of(one.split("\\+")));
            }
            words.put(line.substring(0, colon), all);
        }
        return words;
    }

    private static Set<String> givenNames() {
        Set<String> names = new HashSet<>();
        lines("given-names.txt")
                .forEach(line -> names.addAll(List.of(plain(line).split("\\s+"))));
        return names;
    }

    private static List<String> lines(String resource) {
        try (InputStream in = PersonalWords.class.getResourceAsStream(resource);
                BufferedReader reader =
                        new BufferedReader(new InputStreamReader(Objects.requireNonNull(in), StandardCharsets.UTF_8))) {
            return reader.lines()
                    .filter(line -> !line.isBlank() && !line.startsWith("#"))
                    .toList();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Divides a name into its words, without accents: {@code home_phoneNumber2} into home, phone, number. */
    static List<String> wordsOf(String name) {
        List<String> words = new ArrayList<>();
        String spaced = Normalizer.normalize(name, Normalizer.Form.NFD)
                .replaceAll("\\p{M}", "")
                .replace("ß", "ss")
                .replaceAll("(?<=\\p{Ll})(?=\\p{Lu})|(?<=\\p{Lu})(?=\\p{Lu}\\p{Ll})", " ");
        for (String word : spaced.split("[^\\p{L}]+")) {
            if (!word.isEmpty()) {
                words.add(word.toLowerCase(Locale.ROOT));
            }
        }
        return words;
    }

    /** What a column of this name holds, by its words alone; empty if they say nothing, or that it is about something else. */
    static Optional<Personal> of(String name) {
        List<String> words = wordsOf(name);
        Optional<Personal> found = Optional.empty();
        int longest = 0;
        int last = -1;
        for (Personal kind : Personal.values()) {
            for (Set<String> named : WORDS.getOrDefault(kind.text(), List.of())) {
                if (named.size() > longest && words.containsAll(named)) {
                    found = Optional.of(kind);
                    longest = named.size();
                    last = named.stream().mapToInt(words::lastIndexOf).max().orElse(-1);
                }
            }
        }
        for (int i = 0; i < words.size(); i++) {
            boolean before = words.get(i).equals("is") || words.get(i).equals("has");
            if ((i > last || before) && isOne(OTHERWISE, words.get(i)) && found.isPresent()) {
                return Optional.empty();
            }
        }
        return found;
    }

    private static boolean isOne(String list, String word) {
        return WORDS.getOrDefault(list, List.of()).contains(Set.of(word));
    }

    private static boolean any(String list, String name) {
        return wordsOf(name).stream().anyMatch(word -> isOne(list, word));
    }

    /** Tells whether a table of this name, or a column, is about persons. */
    static boolean isAboutPersons(String name) {
        List<String> words = wordsOf(name);
        return !words.isEmpty()
                && words.stream().anyMatch(word -> isOne(PERSONS, word))
                && !isOne(OTHERWISE, words.get(words.size() - 1));
    }

    /** Tells whether a column is called just "name", or by what somebody is, as customer_name, and not after a thing, as file_name. */
    static boolean isName(String column) {
        List<String> words = wordsOf(column);
        int last = words.size() - 1;
        return last >= 0
                && isOne(NAME, words.get(last))
                && words.subList(0, last).stream().noneMatch(word -> isOne(OTHERWISE, word));
    }

    /** Tells whether a date of this name is one of a thing: when it was opened, ordered, paid. */
    static boolean isDateOfThing(String column) {
        return any(THINGS, column) || any(OTHERWISE, column);
    }

    /** Tells whether a text of this name is about a thing: its description, title, instructions. */
    static boolean isAboutThing(String column) {
        return any(ABOUT, column);
    }

    /** Tells whether a table of this name is about things: products, rooms, countries. */
    static boolean isAboutThings(String table) {
        return any(OTHERWISE, table);
    }

    static boolean isDigest(String column) {
        return any(DIGESTS, column);
    }

    /** Tells whether the name itself says something, rather than c17. */
    static boolean saysSomething(String column) {
        return wordsOf(column).stream().anyMatch(word -> word.length() >= 4);
    }

    /** Tells whether one of the words of a text is a common name of people. */
    static boolean holdsCommonName(String text) {
        for (String word : plain(text).split("[^\\p{L}]+")) {
            if (word.length() > 1 && GIVEN_NAMES.contains(word)) {
                return true;
            }
        }
        return false;
    }

    private static String plain(String text) {
        return Normalizer.normalize(text, Normalizer.Form.NFD)
                .replaceAll("\\p{M}", "")
                .toLowerCase(Locale.ROOT);
    }
}
