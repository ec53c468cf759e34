import { mount } from 'svelte';
import App from './ui/App.svelte';
import './app.css';
import { watchForTroubles } from './state/troubles';

watchForTroubles();

mount(App, { target: document.getElementById('app')! });
