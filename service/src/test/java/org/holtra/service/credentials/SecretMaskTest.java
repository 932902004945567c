package org.holtra.service.credentials;

import static org.assertj.core.api.Assertions.assertThat;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.Base64;
import java.util.HexFormat;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

class SecretMaskTest {

    private static final String SECRET = "pa/ss \"wörd\"+1234";
    private static final SecretMask MASK = new SecretMask(List.of(SECRET));

    private static String base64(String text) {
        return Base64.getEncoder().encodeToString(text.getBytes(StandardCharsets.UTF_8));
    }

    private static Stream<String> forms() {
        String form = URLEncoder.encode(SECRET, StandardCharsets.UTF_8);
        return Stream.of(
                SECRET,
                form,
                form.replace("+", "%20"),
                "pa%2fss%20%22w%c3%b6rd%22%2b1234",
                "pa/ss \\\"wörd\\\"+1234",
                "pa\\/ss \\\"wörd\\\"+1234",
                HexFormat.of().formatHex(SECRET.getBytes(StandardCharsets.UTF_8)));
    }

    @ParameterizedTest
    @MethodSource("forms")
    void noFormOfTheSecretIsLeft(String form) {
        assertThat(MASK.masked("it said: " + form + "!")).isEqualTo("it said: •••!");
    }

    @ParameterizedTest
    @MethodSource("surroundings")
    void noBase64ThatHoldsTheSecretTellsIt(String before, String after) {
        String masked = MASK.masked(base64(before + SECRET + after));

        assertThat(masked).contains("•••");
        // What is left are the characters at the edges, which hold a few bits of it at most.
        assertThat(masked.replace("•••", "").length())
                .isLessThanOrEqualTo(base64(before).length() + base64(after).length() + 4);
    }

    private static Stream<List<String>> around() {
        return Stream.of(List.of("", ""), List.of("u:", ""), List.of("user:", "!"), List.of("abc", "defgh"));
    }

    private static Stream<org.junit.jupiter.params.provider.Arguments> surroundings() {
        return around().map(both -> org.junit.jupiter.params.provider.Arguments.of(both.get(0), both.get(1)));
    }
}
