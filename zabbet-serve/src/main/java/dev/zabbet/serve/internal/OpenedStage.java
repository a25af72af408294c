package dev.zabbet.serve.internal;

import dev.zabbet.Stage;
import java.util.regex.Pattern;

/**
 * A stage, and the URL by which the application reaches its database.
 *
 * @param url without a password
 */
public record OpenedStage(Stage stage, String url) {
    private static final Pattern PASSWORD = Pattern.compile("(?i)(?<=[?&;])password=[^&;]*[&;]?");
    private static final Pattern USER_INFO = Pattern.compile("(?<=//)[^/@]*@");

    public OpenedStage {
        String bare = PASSWORD.matcher(USER_INFO.matcher(url).replaceFirst("")).replaceAll("");
        url = bare.replaceFirst("[?&;]$", "");
    }
}
