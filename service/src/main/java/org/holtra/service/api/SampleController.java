package org.holtra.service.api;

import java.security.Principal;
import java.util.List;
import org.holtra.service.setups.SetupRefused;
import org.holtra.service.workbench.SampleSetup;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** A small setup with made-up stations, to look around in. */
@RestController
@RequestMapping("/api/v1/sample")
class SampleController {

    private final SampleSetup sample;

    SampleController(SampleSetup sample) {
        this.sample = sample;
    }

    /** @param parts of the sample that are in the setup; empty if it is not loaded */
    record Loaded(List<String> parts) {}

    /** Whether it is loaded. */
    @GetMapping
    Loaded loaded() {
        return new Loaded(sample.loaded());
    }

    /** Adds the sample to the setup: made-up stations, a model, a lane, a lookout. Their messages are simulated ones. */
    @PostMapping
    Loaded load(Principal principal) {
        try {
            sample.load(principal.getName());
            return loaded();
        } catch (SetupRefused e) {
            throw Adoption.refused(e);
        }
    }

    /** Takes the sample away again, with the devices it brought. */
    @DeleteMapping
    Loaded remove(Principal principal) {
        try {
            sample.remove(principal.getName());
            return loaded();
        } catch (SetupRefused e) {
            throw Adoption.refused(e);
        }
    }
}
