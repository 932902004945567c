package org.holtra.cli;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.holtra.cli.AnsweredService.Ran;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What helps with a first message: the sample, proposals, channels, held devices, authorities. */
class BeginningTest {

    private final AnsweredService service = new AnsweredService();

    @TempDir
    private Path folder;

    @AfterEach
    void close() {
        service.close();
    }

    @Test
    void theSampleIsLoadedAndRemoved() {
        service.answers("POST /api/v1/sample", 200, "{\"parts\":[\"inlets/sample-stations\"]}");
        assertThat(service.holtra("sample", "load").out()).contains("inlets/sample-stations");

        service.answers("DELETE /api/v1/sample", 200, "{\"parts\":[]}");
        service.answers("GET /api/v1/sample", 200, "{\"parts\":[]}");
        assertThat(service.holtra("sample", "remove").out()).contains("The sample is not loaded");
    }

    @Test
    void whatAnInletsLastMessageLooksLikeIsToldSettingBySetting() {
        service.answers("GET /api/v1/inlets/gate/proposal", 200, """
                {"message":"01","proposal":{"format":"form","parts":[],
                  "device":[{"expression":"data.sn","value":"4711","why":"by its name","with":{}}],
                  "time":[{"expression":"data.ts","value":1776136800,"why":"seconds since 1970","with":{"timeForm":"seconds"}}],
                  "payload":[],"sequence":[],"fields":{},"trouble":null}}
                """);
        Ran ran = service.holtra("inlet", "propose", "gate");
        assertThat(ran.exit()).isZero();
        assertThat(ran.out()).contains("form", "data.sn", "4711", "data.ts", "timeForm");
    }

    @Test
    void aMessageOfWhichNothingCanBeProposedSaysWhy() {
        service.answers("GET /api/v1/inlets/gate/proposal", 200, """
                {"message":"01","proposal":{"format":null,"parts":[],"device":[],"time":[],"payload":[],"sequence":[],
                  "fields":{},"trouble":"its content is bytes"}}
                """);
        assertThat(service.holtra("inlet", "propose", "gate").out())
                .contains("No settings can be proposed: its content is bytes.");
    }

    private String channels() throws IOException {
        Path file = folder.resolve("channels.json");
        Files.writeString(file, "[{\"from\":\"ch1\",\"field\":\"power\",\"factor\":0.001,\"unit\":\"kW\"}]");
        return file.toString();
    }

    @Test
    void channelsAreShownTriedAndSet() throws IOException {
        service.answers("GET /api/v1/devices/channels", 200, """
                {"message":"01","at":"2026-04-12T03:20:00Z","places":{"ch1":1500},"trouble":null,"ownChannels":false,
                 "channels":[{"from":"ch1","field":"power","point":null,"factor":0.001,"unit":"kW","min":null,"max":null,"label":null}]}
                """);
        assertThat(service.holtra("device", "channels", "m1").out())
                .contains("ch1", "1500", "power", "0.001", "These are its model's.");

        service.answers("POST /api/v1/devices/channels/preview", 200, """
                [{"name":"power","sent":1500,"value":1.5,"unit":"kW","note":null}]
                """);
        assertThat(service.holtra("device", "channels", "m1", "--try", channels())
                        .out())
                .contains("power", "1.5", "kW");

        service.answers("POST /api/v1/devices/channels", 200, "{\"changed\":2}");
        assertThat(service.holtra("device", "channels", "m1", "--also", "m2", "--set", channels())
                        .out())
                .contains("2 devices were changed.");
    }

    @Test
    void heldDevicesAreTriedAgain() {
        service.answers("POST /api/v1/outlets/cloud/try-devices", 200, "{\"devices\":[\"m1\"]}");
        assertThat(service.holtra("outlet", "try", "cloud", "--devices").out()).contains("1 tried again.");

        service.answers("POST /api/v1/outlets/cloud/try-devices", 200, "{\"devices\":[]}");
        assertThat(service.holtra("outlet", "try", "cloud", "--device", "m9").out())
                .contains("Outlet cloud holds no device m9.");
    }

    @Test
    void aCheckShowsWhatWouldHaveToBeTrusted() {
        service.answers("POST /api/v1/outlets/cloud/check", 200, """
                [{"step":"TLS","result":"failed","told":"its certificate is signed by an authority this machine does not trust: CN=Larkmoor",
                  "mend":"Trust this authority for this outlet","micros":900,
                  "offer":{"act":"Trust this authority for this outlet","shows":["SHA-256 fingerprint: 01:02"],
                           "settings":{"authority":"-----BEGIN CERTIFICATE-----\\nAB=="}}}]
                """);
        Ran ran = service.holtra("outlet", "check", "cloud");
        assertThat(ran.exit()).isEqualTo(Holtra.NOT_WELL);
        assertThat(ran.out()).contains("Look first:", "SHA-256 fingerprint: 01:02", "Then set authority:", "AB==");
    }

    @Test
    void aFieldOfACredentialIsReadFromAFile() throws IOException {
        Path certificate = folder.resolve("certificate.pem");
        Files.writeString(certificate, "-----BEGIN CERTIFICATE-----\nAB==\n");
        service.answers("GET /api/v1/credentials/forms", 200, """
                [{"form":"authority","about":"","canBeMade":false,"schema":{"properties":{"authority":{},"name":{}}}}]
                """);
        service.answers("PUT /api/v1/credentials/gateways", 200, "{\"name\":\"gateways\",\"notices\":[]}");
        Ran ran = service.holtra(
                "credential", "set", "gateways", "--form", "authority", "--field", "authority=@" + certificate);
        assertThat(ran.out()).contains("Credential gateways is saved.");
        assertThat(service.bodies().getLast()).contains("AB==");
    }

    @Test
    void aMessageThatTheInletIgnoresIsSaidToBeCountedOnly() {
        service.answers("POST /api/v1/inlets/gate/messages", 202, "{\"id\":\"01\",\"ignored\":true}");
        assertThat(service.holtra("send", "gate", "{}").out()).contains("Counted and not kept");
    }
}
