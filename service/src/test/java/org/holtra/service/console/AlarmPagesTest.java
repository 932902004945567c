package org.holtra.service.console;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.time.Instant;
import java.util.Map;
import java.util.regex.Pattern;
import org.holtra.service.support.Client;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Lookouts and alarms in the console. */
class AlarmPagesTest extends InBrowser {

    @BeforeEach
    void setUp() {
        client.save("c", Map.of("form", "bearer", "token", "token-token"));
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: c}, device: data.id, time: data.at}
                """));
        signIn();
    }

    /** A night's wet-bulb temperatures of two stations, of which one stays above zero. */
    private void night() {
        Instant begin = Instant.now().minusSeconds(7_200);
        double[] wet = {2, 1, 0.2, -0.4, 0.3, -0.8, 1.2, 2.1};
        for (int i = 0; i < wet.length; i++) {
            send("i", "low", begin.plusSeconds(600L * i), wet[i]);
            send("i", "high", begin.plusSeconds(600L * i), wet[i] + 3);
        }
    }

    private void send(String inlet, String device, Instant at, double wet) {
        client.send(inlet, "{\"id\":\"%s\",\"at\":\"%s\",\"wet\":%s}".formatted(device, at, wet));
    }

    @Test
    void aNewcomerSetsUpAFrostLookoutFromLastNightSeesHowOftenItWouldHaveRaisedAndTurnsItOn() {
        page.navigate(service.address() + "/alarms");
        page.getByText("Set up a lookout").click();
        night();
        page.reload();
        page.getByLabel("Name").fill("frost");
        page.getByLabel("Value").fill("data.wet");
        page.getByLabel("Raised at or below").fill("0");

        assertThat(page.getByText("It would have raised 2 alarms, for 1 of the 2 it watches."))
                .isVisible();
        page.getByLabel("Cleared at or above").fill("1");
        assertThat(page.getByText("It would have raised 1 alarm, for 1 of the 2 it watches."))
                .isVisible();
        assertThat(page.getByLabel("data.wet of low over time, 8 values, 1 alarms"))
                .isVisible();
        button("Create lookout").click();

        assertThat(button("Apply")).isVisible();
        assertThat(page.getByText("data.wet at or below 0, until it is back at 1"))
                .isVisible();
        send("i", "low", Instant.now(), -0.5);
        page.navigate(service.address() + "/alarms");
        assertThat(page.getByLabel("Alarm", new Page.GetByLabelOptions().setExact(true)))
                .containsText("-0.5 is at or below 0");
    }

    @Test
    void whatIsWrongWithALookoutIsSaidWhereItIsSetUp() {
        page.navigate(service.address() + "/lookouts");
        page.getByLabel("Name").fill("Frost!");
        page.getByLabel("Value").fill("data.wet +");

        assertThat(page.getByText("Lower-case letters, digits and dashes").first())
                .isVisible();
        assertThat(page.getByRole(AriaRole.ALERT).first()).isVisible();
        assertThat(button("Create lookout")).isDisabled();
    }

    @Test
    void whatIsChangedOfALookoutIsKeptAsADraftUntilItIsAdoptedOrDiscarded() {
        Client.good(client.adopt("""
                inlets:
                  i: {kind: http, at: {path: i, credential: c}, device: data.id, time: data.at}
                lookouts:
                  frost: {inlets: [i], value: data.wet, below: {on: 0}}
                """));
        page.navigate(service.address() + "/lookouts/frost");
        page.getByLabel("Raised at or below").fill("0.5");
        assertThat(page.getByText("Not active; draft kept.")).isVisible();

        page.reload();

        assertThat(page.getByLabel("Raised at or below")).hasValue("0.5");
        button("Discard the draft").click();
        assertThat(page.getByLabel("Raised at or below")).hasValue("0");
        page.reload();
        assertThat(page.getByLabel("Raised at or below")).hasValue("0");
    }

    @Test
    void anAlarmIsAcknowledgedAndShelvedByAPerson() {
        Client.good(client.adopt("""
                inlets:
                  j: {kind: http, at: {path: j, credential: c}, device: data.id, time: data.at}
                lookouts:
                  frost: {inlets: [j], value: data.wet, below: {on: 0}}
                """));
        send("j", "a", Instant.now(), -1);
        page.navigate(service.address() + "/alarms");
        page.getByLabel("Comment").fill("fans are on");
        button("Acknowledge").click();

        assertThat(page.getByLabel("History")).containsText("acknowledged: fans are on");
        assertThat(page.getByLabel("Alarms", new Page.GetByLabelOptions().setExact(true)))
                .containsText(Pattern.compile("acknowledged.*frost.*a"));
        button("Shelve for 1 h").click();
        assertThat(button("Shelve no longer")).isVisible();
        button("shelved").click();
        assertThat(page.locator("#main")).containsText("shelved");
    }
}
