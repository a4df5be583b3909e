<!-- Only ever redirects to a stage. -->
